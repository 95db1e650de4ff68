<script setup lang="ts">
import { computed } from 'vue'
import { bpm } from '../../time/format'
import type { BeatGrid } from '../../time/grid'

/** A tempo that changes by less than this share is drawn as none. */
const LEAST = 0.005
/** The height stands for this share of the tempo at least. */
const SHOWN = 0.1
/** A tempo is written where it differs from the one written before by more than this share, and there is room. */
const WRITTEN = 0.03
const ROOM = 44
const INSET = 10
const BESIDE_PLATES = 40

/** The tempo of a track over its waveform, where it changes: steps, ramps and what a player does. */
const { beats, duration, width, height } = defineProps<{
  beats: BeatGrid
  duration: number
  width: number
  height: number
}>()

const points = computed(() => {
  const [first, last] = [beats.beatAt(0), beats.beatAt(duration)]
  const inside = beats.course.filter(([beat]) => first < beat && beat < last)
  return [[first, beats.bpmAt(first)], ...inside, [last, beats.bpmAt(last)]] as [number, number][]
})
const extremes = computed(() => {
  const tempi = points.value.map(([, tempo]) => tempo)
  return { low: Math.min(...tempi), high: Math.max(...tempi) }
})
const spread = computed(() => extremes.value.high / extremes.value.low - 1)
const isLevel = computed(() => spread.value < LEAST)
/** What the height stands for: wide enough that a player who wanders does not look like one who leaps. */
const range = computed(() => {
  const middle = (extremes.value.low + extremes.value.high) / 2
  const half = Math.max((extremes.value.high - extremes.value.low) / 2, (middle * SHOWN) / 2)
  return { low: middle - half, high: middle + half }
})

const xOf = (beat: number) => (beats.timeAt(beat) / duration) * width
function yOf(tempo: number): number {
  const { low, high } = range.value
  return INSET + ((high - tempo) / (high - low)) * (height - 2 * INSET)
}

const line = computed(() => points.value.map(([beat, tempo]) => `${xOf(beat)},${yOf(tempo)}`).join(' '))
const words = computed(() => {
  if (spread.value < WRITTEN) return []
  const written: { x: number; y: number; text: string }[] = []
  let last = 0
  for (const [beat, tempo] of points.value) {
    const x = Math.min(Math.max(0, xOf(beat)), width)
    const before = written[written.length - 1]
    if (before && (Math.abs(tempo / last - 1) < WRITTEN || x - before.x < ROOM || width - x < ROOM)) continue
    last = tempo
    // The first one stands beside the plates of the cues that most tracks begin with.
    const at = before ? x + 4 : BESIDE_PLATES
    const y = yOf(before ? tempo : beats.bpmAt(beats.beatAt((at / width) * duration)))
    written.push({ x: at, y: y < height / 2 ? y + 12 : y - 4, text: bpm(tempo) })
  }
  return written
})
</script>

<template>
  <svg
    v-if="!isLevel && width"
    class="tempo-line"
    :width="width"
    :height="height"
    role="img"
    :aria-label="`Tempo over the track: ${bpm(extremes.low)} to ${bpm(extremes.high)} BPM`"
  >
    <polyline class="under" :points="line" />
    <polyline :points="line" />
    <text v-for="w in words" :key="w.x" :x="w.x" :y="w.y">{{ w.text }}</text>
  </svg>
</template>

<style scoped>
.tempo-line {
  position: absolute;
  top: 0;
  left: 0;
  pointer-events: none;
}

polyline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.5;
}

.under {
  stroke: var(--sheet);
  stroke-width: 4;
}

text {
  fill: var(--ink);
  font-size: 12px;
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 3px;
}
</style>
