<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Control, Curve, ControlSpec, PlannedTransition, Side } from '../../api/types'
import type { PickedPoint } from '../../time/curveEdit'
import { placingDrag } from '../../composables/placingDrag'
import { useCurves } from '../../composables/useCurves'
import type { TransitionSide } from '../../composables/useSides'
import { usePlacing, type Place, type Snap } from '../../composables/usePlacing'
import { useSeamView } from '../../composables/useSeamView'
import { useMix } from '../../stores/mix'
import { hueOf } from '../../theme/hues'
import type { EntryClock } from '../../time/entryClock'
import { barBeat, barsLong } from '../../time/format'
import CurveLane from './CurveLane.vue'
import OverlapRuler from './OverlapRuler.vue'
import SeamPair from './SeamPair.vue'
import TempoLane from './TempoLane.vue'
import VoiceLane from './VoiceLane.vue'

const AROUND = 12
const VOICE_HEIGHT = 24
const MARK_EVERY = 70

const props = defineProps<{
  planned: PlannedTransition
  outgoing: TransitionSide
  incoming: TransitionSide
  snap: Snap
  /** Seconds of the mix at the playhead, if the mix is listened to. */
  playhead: number | undefined
}>()
const emit = defineEmits<{ listen: [seconds: number]; draft: [place: Place]; pick: [point: PickedPoint] }>()

const mix = useMix()
const stage = useTemplateRef<HTMLElement>('stage')
const { width } = useElementSize(stage)
const view = useSeamView(stage, width)
defineExpose({ zoom: view.zoom, fit: fitOverlap })

const { controls, curveOf } = useCurves()
const beatsPerBar = computed(() => props.outgoing.clock.bar)
const placing = usePlacing(
  computed(() => props.planned),
  computed(() => props.outgoing.clock),
  beatsPerBar,
  computed(() => props.snap),
  mix.send,
  computed(() => ({ outgoing: props.outgoing.catches, incoming: props.incoming.catches })),
)
const { drag, key } = placingDrag(placing, view)
watch(placing.place, (place) => emit('draft', place), { immediate: true })
const isCut = computed(() => props.planned.transition.kind === 'cut')
const sings = computed(() => props.outgoing.voice.length + props.incoming.voice.length > 0)
const startX = computed(() => view.xOf(placing.start.value))
const endX = computed(() => view.xOf(placing.end.value))
const hues = computed(() => ({
  outgoing: hueOf(props.outgoing.entry.index),
  incoming: hueOf(props.incoming.entry.index),
}))
const playBeat = computed(() =>
  props.playhead === undefined || !mix.clock ? undefined : mix.clock.beatAt(props.playhead),
)
const playPlace = computed(() => {
  const { start_beat: start, end_beat: end } = props.planned
  const beat = playBeat.value
  return beat === undefined || beat < start || beat > end || end <= start
    ? undefined
    : (beat - start) / (end - start)
})

const shownOnce = ref('')
watch(
  [() => `${props.planned.transition.out_id} ${props.planned.transition.in_id}`, width],
  ([pair, w]) => {
    if (!w || shownOnce.value === pair) return
    shownOnce.value = pair
    fitOverlap()
  },
  { immediate: true },
)

function fitOverlap() {
  view.fit(placing.start.value - AROUND, placing.end.value + AROUND)
}

/** Bar numbers in view, no closer than they can be read. */
function marks({ bar, ...clock }: Pick<EntryClock, 'bar' | 'offset'>) {
  let unit = bar
  while (unit * view.perBeat.value < MARK_EVERY) unit *= 2
  const found = []
  const last = view.beatOf(width.value) - clock.offset
  for (let b = Math.ceil((view.from.value - clock.offset) / unit) * unit; b <= last; b += unit)
    found.push({ beat: b, x: view.xOf(b + clock.offset), text: `${Math.round(b / bar) + 1}` })
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

function setCurve(control: Control, side: Side, curve: Curve) {
  const { out_id, in_id } = props.planned.transition
  void mix.send({ kind: 'set_curve', out_id, in_id, side, control, curve })
}

function curvesOf(control: Control): Record<Side, Curve> {
  const t = props.planned.transition
  return { outgoing: curveOf(t, 'outgoing', control), incoming: curveOf(t, 'incoming', control) }
}

/** What is heard as loudness takes the taller lane. */
const heightOf = (lane: ControlSpec) => (lane.processor === 'level' ? 56 : 44)

const lengthText = computed(() =>
  isCut.value ? 'cut' : barsLong(placing.place.value.beats, beatsPerBar.value),
)
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

      <SeamPair
        class="seam"
        :planned="planned"
        :outgoing="outgoing"
        :incoming="incoming"
        :view="view"
        :placing="placing"
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
      />
      <template v-if="!isCut">
        <CurveLane
          v-for="lane in controls ?? []"
          :key="lane.control"
          class="lane"
          :control="lane.control"
          :label="lane.label"
          :curves="curvesOf(lane.control)"
          :hues="hues"
          :start-x="startX"
          :end-x="endX"
          :width="width"
          :height="heightOf(lane)"
          :place="playPlace"
          @change="(side, curve) => setCurve(lane.control, side, curve)"
          @pick="(side, index) => emit('pick', { control: lane.control, side, index })"
        />
      </template>
      <p v-else class="lane cut soft">A cut has no curves: the incoming takes over on the beat.</p>
      <TempoLane
        v-if="mix.clock"
        class="lane"
        :clock="mix.clock"
        :view="view"
        :outgoing="outgoing.entry"
        :incoming="incoming.entry"
        :start="placing.start.value"
        :end="placing.end.value"
        :width="width"
        :height="52"
        :beat="playBeat"
      />
      <div
        v-if="playBeat !== undefined"
        class="playhead"
        :style="{ transform: `translateX(${view.xOf(playBeat)}px)` }"
      />
    </div>
    <div class="gutter labels">
      <span class="seam-labels"><span>leaves</span><span>arrives</span></span>
      <span class="bar-below">bar</span>
      <span v-if="sings" class="lane" :style="{ height: `${VOICE_HEIGHT + 1}px` }">Voice</span>
      <template v-if="!isCut">
        <span
          v-for="lane in controls ?? []"
          :key="lane.control"
          class="lane"
          :style="{ height: `${heightOf(lane) + 1}px` }"
          >{{ lane.label }}</span
        >
      </template>
      <span v-else class="lane" style="height: 61px" />
      <span class="lane" style="height: 53px">Tempo</span>
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

.cut {
  height: 60px;
  margin: 0;
  padding: 20px;
}

.playhead {
  left: 0;
}
</style>
