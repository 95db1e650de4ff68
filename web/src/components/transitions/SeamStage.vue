<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Kind, Placing, PlannedTransition, Side } from '../../api/types'
import { placingDrag } from '../../composables/transition/placingDrag'
import { useCurves } from '../../composables/transition/useCurves'
import { useKeys } from '../../composables/page/useKeys'
import { useLanes } from '../../composables/transition/useLanes'
import { useLayers } from '../../composables/layers/useLayers'
import type { TransitionSide } from '../../time/transitionSide'
import { usePlacing, type Place, type Snap } from '../../composables/transition/usePlacing'
import { useSeamView } from '../../composables/transition/useSeamView'
import { useMix } from '../../stores/mix'
import { hueOf } from '../../theme/hues'
import type { Clock } from '../../time/clock'
import type { EntryClock } from '../../time/entryClock'
import { barBeat, barsLong, secondsLong } from '../../time/format'
import LayerRows from '../layers/LayerRows.vue'
import CurveLane from './CurveLane.vue'
import LaneLabel from './LaneLabel.vue'
import LaneMenu from './LaneMenu.vue'
import OverlapRuler from './OverlapRuler.vue'
import SeamPair from './SeamPair.vue'
import TempoLane from './TempoLane.vue'
import VoiceLane from './VoiceLane.vue'

const AROUND = 12
const VOICE_HEIGHT = 24
const MARK_EVERY = 70
/** A layer so many seconds before or after a transition is shown with it. */
const NEAR_S = 15

const props = defineProps<{
  planned: PlannedTransition
  /** The clock by which all of it is drawn. */
  axis: Clock
  outgoing: TransitionSide
  incoming: TransitionSide
  snap: Snap
  /** Where it could lie, and which of these is looked at. */
  proposals?: Placing[]
  pointed?: Placing
  /** Seconds of the mix at the playhead, if the mix is listened to. */
  playhead: number | undefined
}>()
const emit = defineEmits<{ listen: [seconds: number]; draft: [place: Place] }>()

const NO_LANES: Partial<Record<Kind, string>> = {
  cut: 'A clean cut has no curves: the incoming takes over on the beat. Give it a lead to lead into it.',
  apart: 'They do not overlap: one ends, then the other begins.',
}

const mix = useMix()
const stage = useTemplateRef<HTMLElement>('stage')
const { width } = useElementSize(stage)
const view = useSeamView(stage, width)
const beatsPerBar = computed(() => props.outgoing.clock.bar)
const kind = computed(() => props.planned.transition.kind)
const isCut = computed(() => kind.value === 'cut')
const pace = computed(() => ({
  outBpm: props.outgoing.entry.home_bpm,
  scale: props.incoming.clock.scale,
}))
const placing = usePlacing(
  computed(() => props.planned),
  computed(() => props.outgoing.clock),
  beatsPerBar,
  computed(() => props.snap),
  mix.send,
  computed(() => ({ outgoing: props.outgoing.catches, incoming: props.incoming.catches })),
  pace,
)
const { drag, key } = placingDrag(placing, view)
watch(placing.place, (place) => emit('draft', place), { immediate: true })
const layers = useLayers()
/** Layers that are heard where both tracks are, or near. */
const layersHere = computed(() => {
  const [from, to] = [props.planned.start_s - NEAR_S, props.planned.end_s + NEAR_S]
  return layers.heard.value.some((x) => x.start_s < to && x.end_s > from)
})
const { curveOf } = useCurves()
const voices = computed(() => {
  const of = (side: Side) => curveOf(props.planned.transition, side, 'voice')
  return { outgoing: of('outgoing'), incoming: of('incoming') }
})
const sings = computed(() => props.outgoing.voice.length + props.incoming.voice.length > 0)
const startX = computed(() => view.xOf(placing.start.value))
const endX = computed(() => view.xOf(placing.end.value))
const hues = computed(() => ({
  outgoing: hueOf(props.outgoing.entry.index),
  incoming: hueOf(props.incoming.entry.index),
}))
const playBeat = computed(() =>
  props.playhead === undefined ? undefined : props.axis.beatAt(props.playhead),
)
const playX = computed(() => {
  const beat = playBeat.value
  const from = Math.min(placing.leads.value, placing.start.value)
  return beat === undefined || beat < from || beat > placing.end.value ? undefined : view.xOf(beat)
})
/** Over how many beats the curves of a side run, as they are drawn. */
const { lanes, spans, editing, lanesLeft, openLane, foldLane } = useLanes(
  computed(() => props.planned),
  placing,
  view,
  computed(() => ({ bar: beatsPerBar.value, beat: 1, none: 0 })[props.snap]),
  mix.send,
)
defineExpose({ zoom: view.zoom, fit: fitOverlap, editing })

const shownOnce = ref('')
watch(
  [() => `${props.planned.transition.out_id} ${props.planned.transition.in_id} ${kind.value}`, width],
  ([pair, w]) => {
    if (!w || shownOnce.value === pair) return
    shownOnce.value = pair
    fitOverlap()
  },
  { immediate: true },
)

function fitOverlap() {
  view.fit(placing.leads.value - AROUND, placing.end.value + AROUND)
}

/** Proposals as they would lie on the seam: on the outgoing's beats. */
const ghosts = computed(() =>
  (props.proposals ?? [])
    .filter((p) => !p.is_this)
    .map((p) => {
      const start = props.outgoing.clock.mixBeat(p.out_at)
      const isPointed = p === props.pointed
      return { x: view.xOf(start), width: p.beats * view.perBeat.value, isPointed, text: p.reasons[0] ?? '' }
    }),
)

/** Bar numbers in view, no closer than they can be read. */
function marks(clock: EntryClock) {
  const { bar } = clock
  let unit = bar
  while (unit * view.perBeat.value * clock.scale < MARK_EVERY) unit *= 2
  const found = []
  const last = clock.entryBeat(view.beatOf(width.value))
  for (let b = Math.ceil(clock.entryBeat(view.from.value) / unit) * unit; b <= last; b += unit)
    found.push({ beat: b, x: view.xOf(clock.mixBeat(b)), text: `${Math.round(b / bar) + 1}` })
  return found
}
const outMarks = computed(() => marks(props.outgoing.clock))
/** The incoming side where it is being dragged to. */
const arriving = computed(() => ({
  ...props.incoming,
  clock: props.incoming.clock.at(placing.incomingOffset.value),
}))
const inMarks = computed(() => marks(arriving.value.clock))

function stageKey(event: KeyboardEvent) {
  if (event.target !== event.currentTarget) return
  const actions: Record<string, () => void> = {
    ArrowLeft: () => view.pan(-80),
    ArrowRight: () => view.pan(80),
  }
  const action = actions[event.key]
  if (!action) return
  event.preventDefault()
  action()
}

const lengthText = computed(() => {
  const { beats } = placing.place.value
  const seconds = (beats * 60) / pace.value.outBpm
  if (kind.value === 'cut') return 'cut'
  if (kind.value === 'fade') return `fade of ${secondsLong(seconds)}`
  if (kind.value === 'apart') return seconds ? `${secondsLong(seconds)} apart` : 'one after the other'
  return barsLong(beats, beatsPerBar.value)
})

useKeys('Curves', [
  {
    keys: ['a'],
    label: 'Show one more lane',
    run: () => lanesLeft.value[0] && openLane(lanesLeft.value[0].control),
  },
])
</script>

<template>
  <div class="stage">
    <div class="gutter ruler-label">bar</div>
    <div
      ref="stage"
      class="pane"
      tabindex="0"
      role="group"
      aria-label="Seam: wheel zooms, shift and wheel moves along"
      @keydown="stageKey"
    >
      <OverlapRuler
        :marks="outMarks"
        :start-x="startX"
        :end-x="endX"
        :width="width"
        :is-cut="isCut"
        :text="lengthText"
        :at="placing.place.value.outAt"
        :at-text="`${lengthText}, from bar ${barBeat(placing.place.value.outAt, beatsPerBar)}`"
        @press="(e) => drag(e, 'body')"
        @key="(e) => key(e, 'body')"
      />

      <LayerRows
        v-if="layersHere"
        :layers="layers"
        :x-of="(s) => view.xOf(axis.beatAt(s))"
        :seconds-of="(x) => axis.timeAt(view.beatOf(x))"
        :width="width"
        :unit="{ bar: beatsPerBar, beat: 1, none: 0 }[snap]"
      />
      <SeamPair
        class="seam"
        :planned="planned"
        :axis="axis"
        :outgoing="outgoing"
        :incoming="incoming"
        :view="view"
        :placing="placing"
        :ghosts="ghosts"
        @listen="(seconds) => emit('listen', seconds)"
      />
      <svg class="ruler below" :width="width" height="20">
        <g v-for="mark in inMarks" :key="mark.beat" class="mark">
          <text :x="mark.x + 4" y="14">{{ mark.text }}</text>
        </g>
      </svg>

      <VoiceLane
        v-if="sings"
        class="lane"
        :view="view"
        :outgoing="outgoing"
        :incoming="arriving"
        :start="placing.start.value"
        :end="placing.end.value"
        :width="width"
        :height="VOICE_HEIGHT"
        :voices="voices"
      />
      <CurveLane
        v-for="lane in lanes"
        :key="lane.spec.control"
        class="lane"
        :spec="lane.spec"
        :volume-law="planned.transition.volume_law"
        :editing="editing"
        :hues="hues"
        :spans="spans"
        :width="width"
        :height="lane.height"
        :play-x="playX"
      />
      <p v-if="!lanes.length" class="lane none soft">{{ NO_LANES[kind] }}</p>
      <TempoLane
        class="lane"
        :clock="axis"
        :view="view"
        :outgoing="outgoing.entry"
        :incoming="incoming.entry"
        :start="placing.start.value"
        :end="placing.end.value"
        :width="width"
        :height="52"
        :beat="playBeat"
        :is-locked="kind === 'blend' || kind === 'cut'"
      />
      <div
        v-if="playBeat !== undefined"
        class="playhead"
        :style="{ transform: `translateX(${view.xOf(playBeat)}px)` }"
      />
    </div>
    <div class="gutter labels">
      <RouterLink
        v-if="layersHere"
        class="layers-label"
        :style="{ height: `${Math.max(1, layers.rows.value.count) * 20}px` }"
        :to="{ name: 'layers', params: { mix: mix.mix!.id } }"
        >Layers</RouterLink
      >
      <span class="seam-labels"><span>outgoing</span><span>incoming</span></span>
      <span class="bar-below">bar</span>
      <span v-if="sings" class="lane" :style="{ height: `${VOICE_HEIGHT + 1}px` }">Voice</span>
      <LaneLabel
        v-for="lane in lanes"
        :key="lane.spec.control"
        :lane="lane"
        @fold="foldLane(lane.spec.control)"
      />
      <span v-if="!lanes.length" class="lane" style="height: 61px" />
      <span class="lane tempo-label" style="height: 53px">
        <LaneMenu v-if="lanesLeft.length" :lanes="lanesLeft" @open="openLane" />
        <span>Tempo</span>
      </span>
    </div>
  </div>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template: 24px 1fr / 58px 1fr;
  height: 100%;
  min-height: 0;
}

.gutter {
  color: var(--ink-soft);
  font-size: 12px;
}

.ruler-label {
  padding: 4px 8px 0 0;
  text-align: right;
  color: var(--ink-faint);
}

.labels {
  grid-row: 2;
  grid-column: 1;
  display: flex;
  flex-direction: column;
  padding-right: 8px;
  text-align: right;
}

.seam-labels {
  display: flex;
  flex: 1;
  flex-direction: column;
  justify-content: space-around;
}

.layers-label {
  color: inherit;
  line-height: 20px;
}

.bar-below {
  height: 20px;
  color: var(--ink-faint);
}

.labels .lane {
  display: flex;
  align-items: center;
  justify-content: flex-end;
}

.pane {
  grid-row: 1 / 3;
  grid-column: 2;
  position: relative;
  display: flex;
  flex-direction: column;
  min-width: 0;
  overflow: hidden;
  background: var(--ground);
  border-left: 1px solid var(--line);
}

.ruler {
  display: block;
  flex: none;
  background: var(--sunken);
}

.mark text {
  fill: var(--ink-soft);
  font-size: 12px;
}

.mark {
  pointer-events: none;
}

.below .mark text {
  font-size: 11px;
}

.seam {
  flex: 1;
  min-height: 120px;
}

.pane > .lane {
  flex: none;
  border-top: 1px solid var(--line);
}

.none {
  height: 60px;
  margin: 0;
  padding: 20px;
}

.tempo-label {
  flex-direction: column;
  gap: 4px;
}

.tempo-label.lane {
  align-items: flex-end;
  justify-content: center;
}

.playhead {
  left: 0;
}
</style>
