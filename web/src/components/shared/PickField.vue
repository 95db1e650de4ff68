<script setup lang="ts" generic="T extends string | number">
/** One of a few, as the browser's own list: every key, screen reader and zoom knows it. */
defineProps<{
  options: readonly { value: T; label: string }[]
  /** What it is called; not needed where a label element names it. */
  label?: string
}>()
const value = defineModel<T>('value')
</script>

<template>
  <select v-model="value" class="pick" :aria-label="label">
    <option v-for="option in options" :key="option.value" :value="option.value">{{ option.label }}</option>
  </select>
</template>

<style scoped>
.pick {
  height: 26px;
  padding: 0 24px 0 8px;
  appearance: none;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background:
    linear-gradient(45deg, transparent 50%, var(--ink-soft) 50%) right 13px center / 5px 5px no-repeat,
    linear-gradient(-45deg, transparent 50%, var(--ink-soft) 50%) right 8px center / 5px 5px no-repeat,
    var(--sheet);
  color: var(--ink);
  font: inherit;
  text-overflow: ellipsis;
  cursor: pointer;
}

.pick:hover {
  border-color: var(--fern);
}

.pick:disabled {
  opacity: 0.5;
  cursor: default;
}
</style>
