<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'

/** A part of a panel that can be folded to one line, which then says what is in it; it stays as it was left. */
const props = defineProps<{
  name: string
  title: string
  /** What is said beside the title. */
  summary?: string
  startsOpen?: boolean
}>()
const open = useLocalStorage(`fernbrook-fold-${props.name}`, props.startsOpen ?? false)
</script>

<template>
  <section class="fold-section">
    <button type="button" class="head" :aria-expanded="open" @click="open = !open">
      <span class="mark" :class="{ open }" aria-hidden="true" />
      <span class="title">{{ title }}</span>
      <span class="summary clip soft">{{ summary }}</span>
    </button>
    <div v-if="open" class="body"><slot /></div>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 7px;
  width: 100%;
  min-height: 24px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
}

.mark {
  flex: none;
  width: 6px;
  height: 6px;
  border-right: 1.5px solid var(--ink-soft);
  border-bottom: 1.5px solid var(--ink-soft);
  transform: rotate(-45deg);
}

.mark.open {
  transform: rotate(45deg);
}

.title {
  flex: none;
  font-weight: 600;
  font-size: 13px;
}

.summary {
  flex: 1;
  text-align: right;
  font-size: 12px;
}

.body {
  padding: 6px 0 2px;
}
</style>
