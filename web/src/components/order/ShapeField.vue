<script setup lang="ts">
import { computed } from 'vue'
import type { EnergyShape } from '../../api/types'
import { startDrag } from '../../composables/page/useDrag'
import { useShapes } from '../../composables/page/useTables'
import { DRAWN_POINTS, levelsOf } from '../../time/shapes'

const WIDTH = 232
const HEIGHT = 76
const INSET = 8
const STEP = 0.05

/** The shape of the energy that is wished. A hand on any of its points makes it one that is drawn. */
const shape = defineModel<EnergyShape>('shape', { required: true })
const drawn = defineModel<[number, number][]>('drawn', { required: true })

const xOf = (i: number) => INSET + (i / (DRAWN_POINTS - 1)) * (WIDTH - 2 * INSET)
const yOf = (level: number) => INSET + (1 - level) * (HEIGHT - 2 * INSET)
const { data: ready } = useShapes()
const points = computed(() =>
  shape.value === 'drawn' ? drawn.value : (ready.value?.[shape.value] as [number, number][] | undefined),
)
const levels = computed(() => levelsOf(points.value, DRAWN_POINTS))
const line = computed(() => {
  const fine = levelsOf(points.value, 65)
  return fine
    ?.map((v, i) => `${i ? 'L' : 'M'}${xOf((i / 64) * (DRAWN_POINTS - 1)).toFixed(1)},${yOf(v).toFixed(1)}`)
    .join('')
})

function set(i: number, level: number) {
  const now = levels.value ?? Array<number>(DRAWN_POINTS).fill(0.5)
  const clamped = Math.min(1, Math.max(0, Math.round(level * 100) / 100))
  drawn.value = now.map((v, at) => [at / (DRAWN_POINTS - 1), at === i ? clamped : v])
  shape.value = 'drawn'
}

function drag(event: PointerEvent, i: number) {
  const start = levels.value?.[i] ?? 0.5
  startDrag(event, {
    move: (_, dy) => set(i, start - dy / (HEIGHT - 2 * INSET)),
    drop: () => undefined,
  })
}
</script>

<template>
  <svg class="shape" :width="WIDTH" :height="HEIGHT" aria-label="Shape of the energy">
    <line class="base" :x1="INSET" :x2="WIDTH - INSET" :y1="HEIGHT - INSET" :y2="HEIGHT - INSET" />
    <path v-if="line" class="line" :d="line" />
    <template v-if="levels || shape === 'any' || shape === 'steady'">
      <circle
        v-for="i in DRAWN_POINTS"
        :key="i"
        class="handle"
        :class="{ faint: !levels }"
        :cx="xOf(i - 1)"
        :cy="yOf(levels?.[i - 1] ?? 0.5)"
        r="5"
        role="slider"
        tabindex="0"
        :aria-label="`Energy ${Math.round(((i - 1) / (DRAWN_POINTS - 1)) * 100)} % into the mix`"
        aria-valuemin="0"
        aria-valuemax="100"
        :aria-valuenow="Math.round((levels?.[i - 1] ?? 0.5) * 100)"
        @pointerdown="(event) => drag(event, i - 1)"
        @keydown.up.prevent="set(i - 1, (levels?.[i - 1] ?? 0.5) + STEP)"
        @keydown.down.prevent="set(i - 1, (levels?.[i - 1] ?? 0.5) - STEP)"
      />
    </template>
  </svg>
</template>

<style scoped>
.shape {
  display: block;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

.base {
  stroke: var(--line-strong);
}

.line {
  fill: none;
  stroke: var(--fern);
  stroke-width: 2;
}

.handle {
  fill: var(--sheet);
  stroke: var(--fern);
  stroke-width: 2;
  cursor: ns-resize;
}

.handle.faint {
  stroke: var(--line-strong);
}
</style>
