<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Cue, Grid, Loop, SuggestedCue } from '../../api/types'
import { useCanvas } from '../../composables/page/useCanvas'
import { startDrag } from '../../composables/page/useDrag'
import { bucketFor, peaksOf } from '../../pictures/trackPictures'
import { useResting } from '../../composables/page/useResting'
import { useSeamView } from '../../composables/transition/useSeamView'
import { drawGridLines } from '../../drawing/gridLines'
import { drawWave } from '../../drawing/waveTiles'
import { hueOf } from '../../theme/hues'
import { useTokens } from '../../theme/tokens'
import { barNumbersOf } from '../../time/beatLines'
import { barBeat, beatsLong } from '../../time/format'
import { meant, stakesOf, STAND_IN, withLoopEdge, type Quantum } from '../../time/cues'
import { BeatGrid } from '../../time/grid'
import CuePlates from '../cues/CuePlates.vue'
import LoopBands from '../cues/LoopBands.vue'
import { lineDraft } from '../../time/gridDraft'

const NEAREST_HANDLES = 22
const MARK_EVERY = 64
const NUDGE_S = 0.001

const props = defineProps<{
  trackId: string
  duration: number
  grid: Grid | undefined
  /** Seconds at which actions apply, and at which the playhead is, if the track plays. */
  cursor: number
  playhead: number | undefined
  /** Whether the view goes along with the playhead. */
  follows: boolean
  cues: Cue[]
  suggested: SuggestedCue[]
  loops: Loop[]
  chosenCue: string | undefined
  chosenLoop: string | undefined
  /** What lines cues and loops catch on. */
  quantum: Quantum
  /** Moves the line of a beat to a second; false where it was refused. */
  moveLine: (beat: number, seconds: number) => Promise<boolean>
}>()
const emit = defineEmits<{
  place: [seconds: number]
  draft: [grid: Grid | undefined]
  cue: [cue: Cue]
  moveCue: [cue: Cue, beat: number]
  accept: [cue: Cue]
  loop: [loop: Loop]
  changeLoop: [loop: Loop]
}>()

/** Seconds drawn as if they were beats of 60 BPM: the waveform stands still while the grid moves. */
const SECONDS = new BeatGrid({
  anchors: [{ time_s: 0, beat: 0, ramp: 1 }],
  bpm_before: 60,
  bpm_after: 60,
  beats_per_bar: 4,
  bars_from: [],
})

const tokens = useTokens()
const stage = useTemplateRef<HTMLElement>('stage')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width, height } = useElementSize(canvas)
const view = useSeamView(stage, width, { closest: 6000, widest: 4 })
defineExpose({ zoom: view.zoom, fit: () => view.fit(0, props.duration), show })

const draft = ref<Grid>()
/** A line as it was moved by keys, counted from where the last press has it. */
const pressed = useResting<{ beat: number; to: number }>()
/** The grid as it is being moved. */
const moved = computed(() => {
  const line = pressed.draft.value
  return draft.value ?? (line && props.grid ? lineDraft(props.grid, line.beat, line.to) : undefined)
})
const beats = computed(() => {
  const grid = moved.value ?? props.grid
  return grid ? new BeatGrid(grid) : undefined
})
const hue = hueOf(0)

/** Centre on a moment. */
function show(seconds: number) {
  view.from.value = seconds - width.value / 2 / view.perBeat.value
}

const shownFor = ref('')
watch(
  [() => props.trackId, width, () => props.grid],
  ([id, w]) => {
    if (!w || shownFor.value === id) return
    shownFor.value = id
    view.perBeat.value = w / 8
    show(props.cursor)
  },
  { immediate: true },
)
watch(
  () => props.cursor,
  (at) => {
    const x = view.xOf(at)
    if (x < 20 || x > width.value - 20) show(at)
  },
)
watch(
  () => props.playhead,
  (at) => {
    if (at !== undefined && props.follows) show(at)
  },
)

useCanvas(canvas, ({ context, width: w, height: h, ratio }) => {
  const perSecond = view.perBeat.value
  const peaks = peaksOf(props.trackId, bucketFor(1 / perSecond))
  const half = Math.round(h / 2)
  if (peaks) {
    const wave = { trackId: props.trackId, peaks, grid: SECONDS, gridKey: 'seconds', hue, gain: 1 }
    const zero = -view.from.value * perSecond
    drawWave(context, { ...wave, hangs: false }, zero, perSecond, w, 0, half, ratio)
    drawWave(context, { ...wave, hangs: true }, zero, perSecond, w, half, h - half, ratio)
  }
  if (beats.value) {
    drawGridLines(context, beats.value, tokens.value, {
      from: view.from.value,
      perSecond,
      width: w,
      top: 0,
      height: h,
    })
  }
})

const span = computed(() => {
  const grid = beats.value
  if (!grid || !width.value) return undefined
  return { first: grid.beatAt(view.beatOf(0)), last: grid.beatAt(view.beatOf(width.value)) }
})
/** Bar numbers above the waveform, as many as have room. */
const marks = computed(() => {
  const grid = beats.value
  if (!grid || !span.value) return []
  const { first, last } = span.value
  const numbers = barNumbersOf(grid.bars, first, last, width.value / (last - first), MARK_EVERY)
  return numbers.map(({ beat, bar }) => ({ bar, x: view.xOf(grid.timeAt(beat)) }))
})
/** Bars that have more or fewer beats than those around them. */
const odd = computed(() => {
  const grid = beats.value
  if (!grid || !span.value) return []
  return grid.bars.odd(span.value.first, span.value.last).map(({ beat, beats: length }) => ({
    x: view.xOf(grid.timeAt(beat)),
    width: view.xOf(grid.timeAt(beat + length)) - view.xOf(grid.timeAt(beat)),
    text: beatsLong(length),
  }))
})
/** Lines that can be dragged: those with room between them. */
const handles = computed(() => {
  const grid = beats.value
  if (!grid || !span.value) return []
  const per = width.value / (span.value.last - span.value.first)
  if (per < NEAREST_HANDLES) return []
  const found = []
  for (let beat = Math.ceil(span.value.first); beat <= span.value.last; beat++) {
    found.push({ beat, x: view.xOf(grid.timeAt(beat)), name: barBeat(beat, grid.bars) })
  }
  return found
})
const anchors = computed(() =>
  ((moved.value ?? props.grid)?.anchors ?? [])
    .map((a) => ({ beat: a.beat, x: view.xOf(a.time_s) }))
    .filter((a) => a.x > -8 && a.x < width.value + 8),
)

function dragLine(event: PointerEvent, beat: number) {
  const grid = props.grid!
  const start = new BeatGrid(grid).timeAt(beat)
  let to = start
  startDrag(event, {
    move(dx) {
      to = start + dx / view.perBeat.value
      draft.value = lineDraft(grid, beat, to)
      emit('draft', draft.value)
    },
    drop() {
      void props.moveLine(beat, to)
      draft.value = undefined
      emit('draft', undefined)
    },
    click: () => emit('place', start),
  })
}

/** Cues and loops as a drag has them for now. */
const movedCue = ref<Cue>()
const movedLoop = ref<Loop>()
const counted = computed(() => beats.value ?? STAND_IN)
const beatX = (beat: number) => view.xOf(counted.value.timeAt(beat))
const stakes = computed(() =>
  stakesOf(
    props.cues.map((c) => (c.id === movedCue.value?.id ? movedCue.value : c)),
    props.suggested,
    (at) => [beatX(at)],
  ),
)
const bands = computed(() => props.loops.map((l) => (l.id === movedLoop.value?.id ? movedLoop.value : l)))

/** The beat that a drag by pixels leads to, on a line unless it is free of them. */
function beatAfter(beat: number, dx: number, free: boolean) {
  const at = counted.value.beatAt(counted.value.timeAt(beat) + dx / view.perBeat.value)
  return meant(at, free || !props.grid ? 'free' : props.quantum, counted.value.bars)
}

function dropCue(cue: Cue) {
  if (movedCue.value) emit('moveCue', cue, movedCue.value.at)
  movedCue.value = undefined
}

function dragEdge(loop: Loop, edge: 'start' | 'end', dx: number, free: boolean) {
  const origin = edge === 'start' ? loop.start : loop.start + loop.beats
  movedLoop.value = withLoopEdge(loop, edge, beatAfter(origin, dx, free), counted.value.beatsPerBar)
}

function dropLoop() {
  if (movedLoop.value) emit('changeLoop', movedLoop.value)
  movedLoop.value = undefined
}

function nudgeLine(beat: number, direction: number, large: boolean) {
  if (pressed.draft.value?.beat !== beat) void pressed.leave()
  const from = pressed.draft.value?.to ?? beats.value!.timeAt(beat)
  const to = from + direction * NUDGE_S * (large ? 10 : 1)
  pressed.put({ beat, to }, () => props.moveLine(beat, to))
}

function press(event: PointerEvent) {
  const from = view.from.value
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  startDrag(event, {
    move: (dx) => (view.from.value = from - dx / view.perBeat.value),
    drop: () => undefined,
    click: (at) => emit('place', Math.min(Math.max(0, view.beatOf(at.clientX - box.left)), props.duration)),
  })
}
</script>

<template>
  <div ref="stage" class="stage" :data-per-second="view.perBeat.value" :data-from="view.from.value">
    <div class="ruler" aria-hidden="true">
      <span v-for="m in marks" :key="m.bar" :style="{ left: `${m.x}px` }">{{ m.bar }}</span>
      <i
        v-for="o in odd"
        :key="o.x"
        :style="{ left: `${o.x}px`, width: `${o.width}px` }"
        :title="`A bar of ${o.text}`"
        >{{ o.width > 60 ? o.text : '' }}</i
      >
    </div>
    <div class="wave" @pointerdown="press">
      <canvas ref="canvas" />
      <svg class="over" :width="width" :height="height">
        <path v-for="a in anchors" :key="`a${a.beat}`" class="anchor" :d="`M${a.x - 5} 0h10l-5 7z`" />
        <rect
          v-for="h in handles"
          :key="h.beat"
          class="line"
          role="slider"
          tabindex="-1"
          :aria-label="`Line of ${h.name}`"
          :aria-valuetext="`${beats!.timeAt(h.beat).toFixed(3)} s`"
          :aria-valuenow="beats!.timeAt(h.beat)"
          :x="h.x - 5"
          y="0"
          width="10"
          :height="height"
          @pointerdown="(e) => dragLine(e, h.beat)"
          @keydown.left.stop.prevent="(e: KeyboardEvent) => nudgeLine(h.beat, -1, e.shiftKey)"
          @keydown.right.stop.prevent="(e: KeyboardEvent) => nudgeLine(h.beat, 1, e.shiftKey)"
        />
      </svg>
      <LoopBands
        :loops="bands"
        :x-of="beatX"
        :chosen="chosenLoop"
        movable
        @choose="(loop) => emit('loop', loop)"
        @edge="dragEdge"
        @drop="dropLoop"
      />
      <CuePlates
        :stakes="stakes"
        :width="width"
        :chosen="chosenCue"
        :rows="3"
        movable
        @choose="(cue) => emit('cue', cue)"
        @accept="(cue) => emit('accept', cue)"
        @drag="(cue, dx, free) => (movedCue = { ...cue, at: beatAfter(cue.at, dx, free) })"
        @drop="dropCue"
      />
      <div class="cursor" :style="{ left: `${view.xOf(cursor)}px` }" />
      <div v-if="playhead !== undefined" class="playhead" :style="{ left: `${view.xOf(playhead)}px` }" />
    </div>
  </div>
</template>

<style scoped>
.stage {
  position: relative;
  display: flex;
  flex-direction: column;
  min-width: 0;
  overflow: hidden;
}

.ruler {
  position: relative;
  height: 18px;
  color: var(--ink-soft);
  font-size: 11px;
  line-height: 18px;
}

.ruler span {
  position: absolute;
  padding-left: 4px;
  border-left: 1px solid var(--line-strong);
}

.ruler i {
  position: absolute;
  top: 0;
  height: 100%;
  padding-right: 5px;
  overflow: hidden;
  background: var(--line);
  color: var(--ink);
  font-style: normal;
  text-align: right;
  white-space: nowrap;
}

.ruler span {
  z-index: 1;
}

.wave {
  position: relative;
  flex: 1;
  min-height: 0;
  background: var(--sheet);
  cursor: grab;
  touch-action: none;
}

canvas,
.over {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.line {
  fill: transparent;
  cursor: ew-resize;
}

.line:hover,
.line:focus-visible {
  fill: color-mix(in srgb, var(--fern) 30%, transparent);
  outline: none;
}

.anchor {
  fill: var(--fern);
}
</style>
