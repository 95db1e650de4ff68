<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Control, CurveShape, Entry, PlannedTransition, Side } from '../api/types'
import { useCanvas } from '../composables/useCanvas'
import type { PickedPoint } from '../composables/curveEdit'
import { startDrag } from '../composables/useDrag'
import { bucketFor, peaksOf } from '../composables/usePeaks'
import { usePlacing, type Part, type Place, type Snap } from '../composables/usePlacing'
import { useSeamView } from '../composables/useSeamView'
import { drawSeam, type SeamSide } from '../drawing/seam'
import { useMix } from '../stores/mix'
import { hueOf, inkOf } from '../theme/hues'
import { useTokens } from '../theme/tokens'
import { barBeat, barsLong } from '../time/format'
import CurveLane from './CurveLane.vue'
import OverlapRuler from './OverlapRuler.vue'
import TempoLane from './TempoLane.vue'

const LANES: { control: Control; label: string }[] = [
  { control: 'volume', label: 'Volume' },
  { control: 'low', label: 'Low' },
  { control: 'mid', label: 'Mid' },
  { control: 'high', label: 'High' },
]
const AROUND = 12
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
const tokens = useTokens()
const stage = useTemplateRef<HTMLElement>('stage')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const seamBox = useTemplateRef<HTMLElement>('seamBox')
const { width, height } = useElementSize(seamBox)
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
watch(placing.place, (place) => emit('draft', place), { immediate: true })
const isCut = computed(() => props.planned.transition.kind === 'cut')
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

function sideOf(side: Side): SeamSide {
  const entry = side === 'outgoing' ? props.outgoing : props.incoming
  const grid = mix.grids.get(entry.id)!
  const secondsPerPixel = 60 / entry.own_bpm / view.perBeat.value
  const wanted = bucketFor(secondsPerPixel)
  const peaks = peaksOf(entry.track_id, wanted) ?? peaksOf(entry.track_id, 4096)
  const offset = side === 'outgoing' ? entry.offset : placing.incomingOffset.value
  return {
    wave: peaks && {
      trackId: entry.track_id,
      peaks,
      grid,
      gridKey: `${entry.count}/${JSON.stringify(entry.grid.anchors[0])}/${entry.grid.bpm_after}/${entry.grid.anchors.length}`,
      hue: hueOf(entry.index),
      gain: 10 ** (entry.gain_db / 20),
      hangs: side === 'incoming',
    },
    offset,
    volume: props.planned.transition[side].volume ?? { points: [{ at: 0, value: 1 }] },
    beatsPerBar: entry.grid.beats_per_bar ?? 4,
  }
}

useCanvas(canvas, ({ context, width: w, height: h, ratio }) => {
  drawSeam(context, w, h, ratio, {
    from: view.from.value,
    perBeat: view.perBeat.value,
    overlap: { start: placing.start.value, end: placing.end.value },
    outgoing: sideOf('outgoing'),
    incoming: sideOf('incoming'),
    tokens: tokens.value,
  })
})

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

function drag(event: PointerEvent, part: Part) {
  startDrag(event, {
    move: (dx) => placing.drag(part, dx / view.perBeat.value),
    drop: () => void placing.drop(),
    click: (e) => part === 'incoming' && listenAt(e),
  })
}

function panBy(event: PointerEvent) {
  let before = 0
  startDrag(event, {
    move: (dx) => {
      view.pan(before - dx)
      before = dx
    },
    drop: () => undefined,
    click: listenAt,
  })
}

function listenAt(event: PointerEvent) {
  const box = seamBox.value!.getBoundingClientRect()
  if (mix.clock) emit('listen', Math.max(0, mix.clock.timeAt(view.beatOf(event.clientX - box.left))))
}

function key(event: KeyboardEvent, part: Part) {
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (!step) return
  event.preventDefault()
  void placing.nudge(part, step * (event.shiftKey ? 4 : 1))
}

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
const handles = computed(() => [
  { part: 'start' as const, x: startX.value, label: 'Start of the overlap', beat: placing.place.value.outAt },
  {
    part: 'end' as const,
    x: endX.value,
    label: 'End of the overlap',
    beat: placing.place.value.outAt + placing.place.value.beats,
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

      <div ref="seamBox" class="seam">
        <canvas ref="canvas" />
        <svg class="over" :width="width" :height="height">
          <rect class="outgoing-half" x="0" y="0" :width="width" :height="height / 2" @pointerdown="panBy">
            <title>Drag to move along; click to hear it from there</title>
          </rect>
          <rect
            class="incoming-half"
            x="0"
            :y="height / 2"
            :width="width"
            :height="height / 2"
            role="slider"
            tabindex="0"
            aria-label="Mix-in of the incoming track"
            :aria-valuenow="placing.place.value.inAt"
            :aria-valuetext="`bar ${barBeat(placing.place.value.inAt, beatsPerBar)}`"
            @pointerdown="(e) => drag(e, 'incoming')"
            @keydown="(e) => key(e, 'incoming')"
          >
            <title>Drag to slide the incoming track along its beats</title>
          </rect>
          <rect
            v-if="!isCut"
            class="overlap"
            :x="startX"
            y="0"
            :width="Math.max(0, endX - startX)"
            :height="height"
          />
          <template v-for="handle in handles" :key="handle.part">
            <line class="edge" :x1="handle.x" :x2="handle.x" y1="0" :y2="height" />
            <rect
              v-if="!isCut"
              class="handle"
              :x="handle.x - 6"
              y="0"
              width="12"
              :height="height"
              role="slider"
              tabindex="0"
              :aria-label="handle.label"
              :aria-valuenow="handle.beat"
              :aria-valuetext="`bar ${barBeat(handle.beat, beatsPerBar)}`"
              @pointerdown="(e) => drag(e, handle.part)"
              @keydown="(e) => key(e, handle.part)"
            />
          </template>
        </svg>
        <span class="name out" :style="{ color: inkOf(hues.outgoing) }">{{ outgoing.title }}</span>
        <span class="name in" :style="{ color: inkOf(hues.incoming) }">{{ incoming.title }}</span>
      </div>
      <svg class="ruler below" :width="width" height="20">
        <g v-for="mark in inMarks" :key="mark.beat" class="mark">
          <text :x="mark.x + 4" y="14">{{ mark.text }}</text>
        </g>
      </svg>

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
  position: relative;
  flex: 1;
  min-height: 120px;
  background: var(--sheet);
}

canvas,
.over {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.over {
  touch-action: none;
}

.outgoing-half,
.incoming-half {
  fill: transparent;
}

.outgoing-half {
  cursor: default;
}

.incoming-half {
  cursor: ew-resize;
  outline: none;
}

.incoming-half:focus-visible {
  fill: var(--fern);
  fill-opacity: 0.05;
}

.overlap {
  fill: var(--fern);
  opacity: 0.06;
  pointer-events: none;
}

.edge {
  stroke: var(--fern);
  stroke-width: 1.5;
  pointer-events: none;
}

.handle {
  fill: transparent;
  cursor: col-resize;
}

.handle:hover {
  fill: var(--fern);
  fill-opacity: 0.18;
}

.name {
  position: absolute;
  left: 8px;
  padding: 0 5px;
  border-radius: 3px;
  background: var(--veil);
  font-weight: 600;
  pointer-events: none;
}

.name.out {
  top: 5px;
}

.name.in {
  bottom: 5px;
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
