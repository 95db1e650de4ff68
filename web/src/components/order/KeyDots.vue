<script setup lang="ts">
import type { Nearness } from '../../time/steps'

/** Two dots, as near to each other as two keys are; what they mean is said in words beside them. */
defineProps<{ nearness: Nearness }>()

const APART: Record<Nearness, number> = { same: 0, near: 5, apart: 10, far: 18, unknown: 18 }
</script>

<template>
  <svg width="30" height="10" aria-hidden="true" class="dots-of-keys">
    <line v-if="nearness === 'far'" x1="6" y1="5" x2="24" y2="5" class="apart" />
    <circle :cx="15 - APART[nearness] / 2" cy="5" r="4" class="one" />
    <circle
      :cx="15 + APART[nearness] / 2"
      cy="5"
      r="4"
      :class="nearness === 'unknown' ? 'missing' : 'other'"
    />
  </svg>
</template>

<style scoped>
.dots-of-keys {
  flex: none;
}

.one {
  fill: var(--ink-soft);
}

.other {
  fill: var(--sheet);
  fill-opacity: 0.6;
  stroke: var(--ink-soft);
  stroke-width: 1.5;
}

.missing {
  fill: none;
  stroke: var(--ink-faint);
  stroke-dasharray: 2 2;
}

.apart {
  stroke: var(--warn);
  stroke-dasharray: 2 2;
}
</style>
