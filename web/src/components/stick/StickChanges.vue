<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { reactive, watch } from 'vue'
import type { MarkFacet, StickRead } from '../../api/types'
import { clockTime } from '../../time/format'
import FacetCompare from '../shared/FacetCompare.vue'

/** What a player changed and played on the stick, beside what is here. */
const props = defineProps<{ came: StickRead }>()
const emit = defineEmits<{ take: [track: string, facets: MarkFacet[]]; leave: [track: string]; played: [] }>()

const chosen = reactive<Record<string, MarkFacet[]>>({})
watch(
  () => props.came.changed,
  (changed) => {
    for (const c of changed) chosen[c.track_id] ??= c.parts.map((p) => p.facet)
  },
  { immediate: true },
)
const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }) // prettier-ignore
const all = () => props.came.changed.forEach((c) => emit('take', c.track_id, c.parts.map((p) => p.facet))) // prettier-ignore
</script>

<template>
  <p v-if="!came.exported_at" class="soft">Nothing was put on it yet.</p>
  <template v-else>
    <p class="soft">Filled on {{ when.format(new Date(came.exported_at)) }}.</p>
    <p v-for="note in came.notes" :key="note" class="bad">{{ note }}</p>
    <p v-if="!came.changed.length" class="soft">Nothing was marked otherwise on it since.</p>
    <Button v-if="came.changed.length > 1" size="small" @click="all">Take all changes</Button>
    <article v-for="c in came.changed" :key="c.track_id">
      <header>
        <strong class="clip">{{ c.artist ? `${c.artist} – ` : '' }}{{ c.title }}</strong>
        <span class="gap" />
        <Button
          size="small"
          type="text"
          title="Have the stick say what is here"
          @click="emit('leave', c.track_id)"
          >Skip</Button
        >
        <Button
          size="small"
          type="primary"
          :disabled="!chosen[c.track_id]?.length"
          @click="emit('take', c.track_id, chosen[c.track_id]!)"
          >Take selected</Button
        >
      </header>
      <FacetCompare v-model:chosen="chosen[c.track_id]" :parts="c.parts" there="From the stick" />
    </article>
    <template v-if="came.played.length">
      <h3>Played</h3>
      <ol>
        <li v-for="(p, i) in came.played.slice(-12)" :key="i">
          <span class="soft">{{ when.format(new Date(p.at)) }}</span>
          <span class="clip">{{ p.name }}</span>
          <span class="soft">{{ clockTime(p.seconds) }}</span>
        </li>
      </ol>
      <Button size="small" @click="emit('played')">Make list</Button>
    </template>
  </template>
</template>

<style scoped>
article {
  margin: 10px 0 16px;
  padding: 8px 12px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

header {
  display: flex;
  align-items: center;
  gap: 8px;
}

h3 {
  margin: 18px 0 4px;
}

ol {
  margin: 0 0 10px;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 110px 1fr max-content;
  gap: 10px;
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
</style>
