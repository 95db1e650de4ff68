<script setup lang="ts">
import { useKeyNotation } from '../../composables/page/preferences'
import type { ListedTrack } from '../../library/trackTable'
import { clockTime, tempoOf } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'

/** A track of the library, to be heard, carried into the order, or added. */
defineProps<{ track: ListedTrack; used: boolean; verb: string; title: string; canTry?: boolean }>()
const emit = defineEmits<{ listen: []; add: []; try: []; carry: [event: DragEvent] }>()
const { keyOf } = useKeyNotation()
</script>

<template>
  <li draggable="true" @dragstart="emit('carry', $event)" @dblclick="emit('add')">
    <button type="button" class="listen" :aria-label="`Listen to ${track.title}`" @click="emit('listen')">
      <GlyphIcon name="play" :size="12" />
    </button>
    <div class="names">
      <span class="clip" :class="{ used }" :title="track.title">{{ track.title }}</span>
      <span class="clip soft">{{ track.artist }}</span>
    </div>
    <span class="facts soft"
      >{{ tempoOf(track) || '–' }} · {{ keyOf(track) }}<br />{{ clockTime(track.duration_s) }}</span
    >
    <button
      v-if="canTry"
      type="button"
      class="try"
      :aria-label="`Try ${track.title} after the chosen one`"
      title="Hear how it goes after the chosen one, apart from this mix"
      @click="emit('try')"
    >
      Try
    </button>
    <button
      type="button"
      class="add"
      :aria-label="`${verb} ${track.title}`"
      :title="title"
      @click="emit('add')"
    >
      <GlyphIcon :name="verb === 'Use' ? 'check' : 'plus'" />
    </button>
  </li>
</template>

<style scoped>
li {
  position: relative;
  display: grid;
  grid-template-columns: 24px minmax(0, 1fr) max-content 28px;
  align-items: center;
  gap: 8px;
  height: 48px;
  padding: 0 10px 0 6px;
  border-bottom: 1px solid var(--line);
}

.listen {
  width: 24px;
  height: 24px;
  padding: 0;
  border: 0;
  border-radius: 50%;
  background: none;
  color: var(--fern);
  cursor: pointer;
}

.add {
  display: grid;
  place-items: center;
  width: 28px;
  height: 26px;
  padding: 0;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background: var(--ground);
  color: var(--ink);
  cursor: pointer;
}

.try {
  position: absolute;
  right: 46px;
  height: 26px;
  padding: 0 10px;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background: var(--ground);
  color: var(--ink);
  font: inherit;
  cursor: pointer;
  opacity: 0;
}

li:hover .try,
.try:focus-visible {
  opacity: 1;
}

.try:hover,
.add:hover {
  border-color: var(--fern);
  color: var(--fern);
}

.listen:hover {
  background: var(--fern-soft);
}

.names {
  display: flex;
  flex-direction: column;
  min-width: 0;
  line-height: 1.25;
}

.used {
  color: var(--ink-faint);
}

.facts {
  font-size: 12px;
  line-height: 1.3;
  text-align: right;
}
</style>
