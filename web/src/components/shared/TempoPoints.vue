<script setup lang="ts">
import { computed } from 'vue'
import { startDrag } from '../../composables/page/useDrag'
import { useTempoMarks } from '../../composables/mix/useTempoMarks'
import { bpm } from '../../time/format'

const FINE_BPM = 0.1

/** The points of the tempo line that were set by hand: a double click sets one, dragging and the keys move it. */
const props = defineProps<{
  width: number
  height: number
  /** Pixels of a beat of the mix, and back. */
  xOf: (beat: number) => number
  beatOf: (x: number) => number
  yOf: (bpm: number) => number
  bpmOf: (y: number) => number
  /** The tempo of the line at a beat, where a new point is set on it: what is low is too coarse to aim. */
  lineAt?: (beat: number) => number
  /** The clock whose points these are; all where there is none. */
  clock?: number
}>()

const marks = useTempoMarks()
const points = computed(() =>
  marks.shown.value
    .map(({ mark, beat, clock }, index) => ({
      mark,
      beat,
      clock,
      index,
      x: props.xOf(beat),
      y: props.yOf(mark.bpm),
    }))
    .filter((p) => props.clock === undefined || p.clock === props.clock),
)
const draft = computed(() =>
  marks.isDrafted.value ? points.value.map((p) => `${p.x},${p.y}`).join(' ') : undefined,
)

function add(event: MouseEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const beat = props.beatOf(event.clientX - box.left)
  void marks.add(beat, props.lineAt?.(beat) ?? props.bpmOf(event.clientY - box.top))
}

function drag(event: PointerEvent, index: number) {
  const from = points.value.find((p) => p.index === index)!
  startDrag(event, {
    move: (dx, dy) => marks.move(index, props.beatOf(from.x + dx), props.bpmOf(from.y + dy)),
    drop: () => void marks.drop(),
  })
}

function key(event: KeyboardEvent, index: number) {
  const { beat, mark } = marks.laid.value[index]!
  const step = event.shiftKey ? 10 : 1
  const moves: Record<string, [number, number]> = {
    ArrowLeft: [-step, 0],
    ArrowRight: [step, 0],
    ArrowUp: [0, step * FINE_BPM],
    ArrowDown: [0, -step * FINE_BPM],
  }
  const by = moves[event.key]
  if (by) {
    marks.move(index, beat + by[0], mark.bpm + by[1])
    void marks.drop()
  } else if (event.key === 'Delete' || event.key === 'Backspace') void marks.remove(index)
  else if (event.key === 's') marks.turn(index)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <svg
    class="points"
    :width="width"
    :height="height"
    role="group"
    aria-label="Tempo points"
    @dblclick.stop="add"
  >
    <title>Double-click: set the tempo here. Drag it; S: straight, smooth or a step; Delete</title>
    <rect class="all" :width="width" :height="height" />
    <polyline v-if="draft" class="draft" :points="draft" />
    <circle
      v-for="p in points"
      :key="p.index"
      class="point"
      tabindex="0"
      role="slider"
      data-own-keys
      :aria-label="`Tempo point ${p.index + 1}: ${bpm(p.mark.bpm)} BPM, then ${p.mark.onward}`"
      :aria-valuenow="p.mark.bpm"
      :aria-valuemin="20"
      :aria-valuemax="400"
      :cx="p.x"
      :cy="p.y"
      r="4.5"
      @pointerdown="(e) => drag(e, p.index)"
      @click.stop
      @dblclick.stop="marks.remove(p.index)"
      @keydown="(e) => key(e, p.index)"
    />
  </svg>
</template>

<style scoped>
.points {
  position: absolute;
  inset: 0;
  overflow: visible;
}

.all {
  fill: transparent;
}

.draft {
  fill: none;
  stroke: var(--fern);
  stroke-width: 1.5;
  stroke-dasharray: 4 3;
}

.point {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.75;
  cursor: grab;
}

.point:focus-visible,
.point:hover {
  fill: var(--fern);
}
</style>
