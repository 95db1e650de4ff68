<script setup lang="ts">
import { computed, useTemplateRef, watch } from 'vue'
import type { Kind, Side } from '../../api/types'
import { placingDrag } from '../../composables/transition/placingDrag'
import { useCurves } from '../../composables/transition/useCurves'
import { useKeys } from '../../composables/page/useKeys'
import { useLayers } from '../../composables/layers/useLayers'
import { useTransition } from '../../composables/transition/useTransition'
import { useMix } from '../../stores/mix'
import { hueOf } from '../../theme/hues'
import { barNumbersOf } from '../../time/beatLines'
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

const VOICE_HEIGHT = 24
const MARK_EVERY = 70
/** A layer so many seconds before or after a transition is shown with it. */
const NEAR_S = 15

/** The two tracks where they meet, with what runs below them: voices, curves, tempo. */
const emit = defineEmits<{ listen: [seconds: number] }>()

const NO_LANES: Partial<Record<Kind, string>> = {
  cut: 'A clean cut has no curves: the incoming takes over on the beat. Give it a lead to lead into it.',
  apart: 'They do not overlap: one ends, then the other begins.',
}

const mix = useMix()
const transition = useTransition()
const { planned, axis, outgoing, incoming, t, kind, bar, tempi, snapBeats, placing, stage, width, view } =
  transition
const pane = useTemplateRef<HTMLElement>('pane')
watch(pane, (element) => (stage.value = element ?? undefined))
const { lanes, spans, editing, lanesLeft, openLane, foldLane, playBeat, proposals, pointed } = transition
const isCut = computed(() => kind.value === 'cut')
const { drag, key } = placingDrag(placing, view)
const layers = useLayers()
/** Layers that are heard where both tracks are, or near. */
const layersHere = computed(() => {
  const [from, to] = [planned.value.start_s - NEAR_S, planned.value.end_s + NEAR_S]
  return layers.heard.value.some((x) => x.start_s < to && x.end_s > from)
})
const { curveOf } = useCurves()
const voices = computed(() => {
  const of = (side: Side) => curveOf(t.value, side, 'voice')
  return { outgoing: of('outgoing'), incoming: of('incoming') }
})
const sings = computed(() => outgoing.value.voice.length + incoming.value.voice.length > 0)
const startX = computed(() => view.xOf(placing.start.value))
const endX = computed(() => view.xOf(placing.end.value))
const hues = computed(() => ({
  outgoing: hueOf(outgoing.value.entry.index),
  incoming: hueOf(incoming.value.entry.index),
}))
const playX = computed(() => {
  const beat = playBeat.value
  const from = Math.min(placing.leads.value, placing.start.value)
  return beat === undefined || beat < from || beat > placing.end.value ? undefined : view.xOf(beat)
})
/** Proposals as they would lie on the seam: on the outgoing's beats. */
const ghosts = computed(() =>
  (proposals.value ?? [])
    .filter((p) => !p.is_this)
    .map((p) => {
      const start = outgoing.value.clock.mixBeat(p.out_at)
      const isPointed = p === pointed.value
      return { x: view.xOf(start), width: p.beats * view.perBeat.value, isPointed, text: p.reasons[0] ?? '' }
    }),
)

/** Bar numbers in view, no closer than they can be read. */
function marks(clock: EntryClock) {
  const [first, last] = [view.from.value, view.beatOf(width.value)].map((b) => clock.entryBeat(b))
  const numbers = barNumbersOf(clock.bars, first!, last!, view.perBeat.value * clock.scale, MARK_EVERY)
  return numbers.map(({ beat, bar }) => ({ beat, x: view.xOf(clock.mixBeat(beat)), text: `${bar}` }))
}
const outMarks = computed(() => marks(outgoing.value.clock))
/** The incoming side where it is being dragged to. */
const dragged = computed(() => ({
  ...incoming.value,
  clock: incoming.value.clock.at(placing.incomingOffset.value),
}))
const inMarks = computed(() => marks(dragged.value.clock))

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
  const seconds = (beats * 60) / tempi.value.from
  if (kind.value === 'cut') return 'cut'
  if (kind.value === 'fade') return `fade of ${secondsLong(seconds)}`
  if (kind.value === 'apart') return seconds ? `${secondsLong(seconds)} apart` : 'one after the other'
  return barsLong(beats, bar.value)
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
      ref="pane"
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
        :at-text="`${lengthText}, from bar ${barBeat(placing.place.value.outAt, outgoing.clock.bars)}`"
        @press="(e) => drag(e, 'body')"
        @key="(e) => key(e, 'body')"
      />

      <LayerRows
        v-if="layersHere"
        :layers="layers"
        :x-of="(s) => view.xOf(axis.beatAt(s))"
        :seconds-of="(x) => axis.timeAt(view.beatOf(x))"
        :width="width"
        :unit="snapBeats"
      />
      <SeamPair class="seam" :ghosts="ghosts" @listen="(seconds) => emit('listen', seconds)" />
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
        :incoming="dragged"
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
      <TempoLane class="lane" :height="52" />
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
