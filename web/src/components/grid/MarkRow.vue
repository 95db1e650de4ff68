<script setup lang="ts">
import GlyphIcon from '../shared/GlyphIcon.vue'

/** A row of a list of cues or loops: what it is, where it lies, and one thing that can be done to it. */
defineProps<{
  at: string
  chosen?: boolean
  /** What the small button does. */
  action: string
  glyph: 'play' | 'loop' | 'check'
  title?: string
}>()
const emit = defineEmits<{ choose: []; act: [] }>()
</script>

<template>
  <li :class="{ chosen }">
    <button type="button" class="item" :aria-pressed="chosen" @click="emit('choose')">
      <slot />
      <span class="gap" />
      <span class="at">{{ at }}</span>
    </button>
    <button type="button" class="act" :aria-label="action" :title="title" @click="emit('act')">
      <GlyphIcon :name="glyph" :size="13" />
    </button>
  </li>
</template>

<style scoped>
li {
  display: flex;
  align-items: center;
  border-radius: 4px;
}

li:hover,
li.chosen {
  background: var(--sunken);
}

.item {
  display: flex;
  flex: 1;
  align-items: center;
  gap: 6px;
  min-width: 0;
  height: 26px;
  padding: 0 2px;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.at {
  font-variant-numeric: tabular-nums;
}

.act {
  width: 26px;
  height: 26px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--fern);
  cursor: pointer;
}

.act:hover {
  background: var(--fern-soft);
}
</style>
