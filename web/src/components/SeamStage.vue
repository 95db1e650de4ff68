<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Control, CurveShape, Entry, PlannedTransition, Side } from '../api/types'
import type { PickedPoint } from '../composables/curveEdit'
import { placingDrag } from '../composables/placingDrag'
import { usePlacing, type Place, type Snap } from '../composables/usePlacing'
import { useSeamView } from '../composables/useSeamView'
import { useMix } from '../stores/mix'
import { hueOf } from '../theme/hues'
import { barBeat, barsLong } from '../time/format'
import CurveLane from './CurveLane.vue'
import OverlapRuler from './OverlapRuler.vue'
import SeamPair from './SeamPair.vue'
import TempoLane from './TempoLane.vue'
import VoiceLane from './VoiceLane.vue'

const LANES: { control: Control; label: string }[] = [
  { control: 'volume', label: 'Volume' },
  { control: 'low', label: 'Low' },
  { control: 'mid', label: 'Mid' },
  { control: 'high', label: 'High' },
]
const AROUND = 12
const VOICE_HEIGHT = 24
const MARK_EVERY = 70

const props = defineProps<{
  planned: PlannedTransition
  outgoing: Entry
  incoming: Entry
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

const beatsPerBar = computed(() => props.outgoing.grid.beats_per_bar ?? 4)
const placing = usePlacing(
  computed(() => props.planned),
  computed(() => props.outgoing),
  beatsPerBar,
  computed(() => props.snap),
  mix.send,
)
const { drag, key } = placingDrag(placing, view)
watch(placing.place, (place) => emit('draft', place), { immediate: true })
const isCut = computed(() => props.planned.transition.kind === 'cut')
const sings = computed(() => props.outgoing.voice.length + props.incoming.voice.length > 0)
const startX = computed(() => view.xOf(placing.start.value))
const endX = computed(() => view.xOf(placing.end.value))
const hues = computed(() => ({
  outgoing: hueOf(props.outgoing.index),
  incoming: hueOf(props.incoming.index),
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
function marks(offset: number, bar: number) {
  let unit = bar
  while (unit * view.perBeat.value < MARK_EVERY) unit *= 2
  const found = []
  const last = view.beatOf(width.value) - offset
  for (let b = Math.ceil((view.from.value - offset) / unit) * unit; b <= last; b += unit)
    found.push({ beat: b, x: view.xOf(b + offset), text: `${Math.round(b / bar) + 1}` })
  return found
}
const outMarks = computed(() => marks(props.outgoing.offset, beatsPerBar.value))
const inMarks = computed(() => marks(placing.incomingOffset.value, props.incoming.grid.beats_per_bar ?? 4))

function stageKey(event: KeyboardEvent) {
  if (event.target !== event.currentTarget) return
  const actions: Record<string, () => void> = {
    ArrowLeft: () => view.pan(-80),
    ArrowRight: () => view.pan(80),
    '+': () => view.zoom(1.4),
    '=': () => view.zoom(1.4),
    '-': () => view.zoom(1 / 1.4),
    '0': fitOverlap,
  }
  const action = actions[event.key]
  if (!action) return
  event.preventDefault()
  action()
}

function setCurve(control: Control, side: Side, curve: CurveShape) {
  const { out_id, in_id } = props.planned.transition
  void mix.send({ kind: 'set_curve', out_id, in_id, side, control, curve })
}

function curvesOf(control: Control): Record<Side, CurveShape> {
  const flat = { points: [{ at: 0, value: 1 }, { at: 1, value: 1 }] } // prettier-ignore
  return {
    outgoing: props.planned.transition.outgoing[control] ?? flat,
    incoming: props.planned.transition.incoming[control] ?? flat,
  }
}

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
        :incoming="incoming"
        :incoming-offset="placing.incomingOffset.value"
        :start="placing.start.value"
        :end="placing.end.value"
        :width="width"
        :height="VOICE_HEIGHT"
      />
      <template v-if="!isCut">
        <CurveLane
          v-for="lane in LANES"
          :key="lane.control"
          class="lane"
          :control="lane.control"
          :curves="curvesOf(lane.control)"
          :hues="hues"
          :start-x="startX"
          :end-x="endX"
          :width="width"
          :height="lane.control === 'volume' ? 56 : 44"
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
        :outgoing="outgoing"
        :incoming="incoming"
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
          v-for="lane in LANES"
          :key="lane.control"
          class="lane"
          :style="{ height: `${(lane.control === 'volume' ? 56 : 44) + 1}px` }"
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
  position: absolute;
  top: 0;
  bottom: 0;
  left: 0;
  width: 1.5px;
  background: var(--ink);
  pointer-events: none;
}
</style>
