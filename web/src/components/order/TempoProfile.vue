<script setup lang="ts">
import { computed } from 'vue'
import type { Entry } from '../../api/types'
import { hueOf } from '../../theme/hues'
import { bpm } from '../../time/format'

const WIDTH = 96
const INSET = 12
const MIDDLE_OF_ROW = 26
const LEAP = 0.06

/** The tempo from track to track beside the rows that are drawn; its range is that of all. */
const props = defineProps<{
  entries: Entry[]
  /** The places of the rows that are drawn, in order. */
  shown: number[]
  rowHeight: number
}>()

const range = computed(() => {
  const tempi = props.entries.map((e) => e.home_bpm)
  const low = Math.min(...tempi)
  return { low, high: Math.max(...tempi, low + 2) }
})
const points = computed(() =>
  props.shown.flatMap((index, i) => {
    const entry = props.entries[index]
    if (!entry) return []
    const { low, high } = range.value
    const x = INSET + ((entry.home_bpm - low) / (high - low)) * (WIDTH - 2 * INSET)
    return [{ entry, x, y: i * props.rowHeight + MIDDLE_OF_ROW }]
  }),
)
const steps = computed(() =>
  points.value.slice(1).map((to, i) => {
    const from = points.value[i]!
    return { from, to, leap: Math.abs(to.entry.home_bpm / from.entry.home_bpm - 1) > LEAP }
  }),
)
</script>

<template>
  <svg
    class="profile"
    :width="WIDTH"
    :height="shown.length * rowHeight"
    role="img"
    aria-label="Tempo from track to track"
  >
    <line
      v-for="step in steps"
      :key="step.to.entry.id"
      :x1="step.from.x"
      :y1="step.from.y"
      :x2="step.to.x"
      :y2="step.to.y"
      class="step"
      :class="{ leap: step.leap }"
    />
    <g v-for="point in points" :key="point.entry.id">
      <circle :cx="point.x" :cy="point.y" r="5" :fill="hueOf(point.entry.index).strong" />
      <text
        :x="point.x > WIDTH / 2 ? point.x - 9 : point.x + 9"
        :y="point.y + 4"
        :text-anchor="point.x > WIDTH / 2 ? 'end' : 'start'"
      >
        {{ bpm(point.entry.home_bpm) }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
.profile {
  display: block;
  margin-left: 6px;
}

.step {
  stroke: var(--line-strong);
  stroke-width: 2;
}

.leap {
  stroke: var(--warn);
  stroke-dasharray: 4 4;
}

text {
  fill: var(--ink-soft);
  font-size: 12px;
}
</style>
