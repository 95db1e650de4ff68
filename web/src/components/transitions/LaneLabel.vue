<script setup lang="ts">
import type { ShownLane } from '../../composables/transition/useLaneList'

/** The name of a lane beside it; one in which nothing happens is folded away by a click on it. */
defineProps<{ lane: ShownLane }>()
const emit = defineEmits<{ fold: [] }>()
</script>

<template>
  <span class="lane" :style="{ height: `${lane.height + 1}px` }">
    <button
      v-if="lane.canFold"
      type="button"
      :title="`Fold the ${lane.spec.label.toLowerCase()} lane away`"
      :aria-label="`Fold the ${lane.spec.label.toLowerCase()} lane away`"
      @click="emit('fold')"
    >
      {{ lane.spec.label }} −
    </button>
    <template v-else>{{ lane.spec.label }}</template>
  </span>
</template>

<style scoped>
.lane {
  display: flex;
  align-items: center;
  justify-content: flex-end;
}

button {
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink-soft);
  cursor: pointer;
}

button:hover {
  color: var(--ink);
  text-decoration: underline;
}
</style>
