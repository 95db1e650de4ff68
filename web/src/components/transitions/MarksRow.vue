<script setup lang="ts">
import { useMarks } from '../../stores/marks'
import { clockTenths } from '../../time/format'

/** The places that were marked while listening: a click goes there. */
const emit = defineEmits<{ go: [seconds: number] }>()
const marks = useMarks()
</script>

<template>
  <div v-if="marks.marks.length" class="marks" role="group" aria-label="Marked places">
    <span class="soft">Come back to</span>
    <span v-for="{ mark, seconds } in marks.marks" :key="`${mark.entryId} ${mark.beat}`" class="mark">
      <button type="button" class="go" @click="emit('go', seconds)">{{ clockTenths(seconds) }}</button>
      <button
        type="button"
        class="done"
        :aria-label="`Forget the mark at ${clockTenths(seconds)}`"
        @click="marks.remove(mark)"
      >
        ×
      </button>
    </span>
  </div>
</template>

<style scoped>
.marks {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  padding: 0 14px 8px;
  font-size: 13px;
}

.mark {
  display: inline-flex;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background: var(--sheet);
}

button {
  padding: 1px 7px;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}

.done {
  padding-left: 0;
  color: var(--ink-soft);
}
</style>
