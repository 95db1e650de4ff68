<script setup lang="ts">
import { useRoute, useRouter } from 'vue-router'
import { placeIn } from '../../composables/mix/useMixPlace'
import { keyFor, useKeys, type Press } from '../../composables/page/useKeys'
import GlyphIcon from '../shared/GlyphIcon.vue'
import RailIcon from './RailIcon.vue'

const { mixId } = defineProps<{ mixId: string }>()
defineEmits<{ keys: [] }>()
const route = useRoute()
const router = useRouter()

const places = [
  { name: 'tracks', label: 'Tracks' },
  { name: 'grid', label: 'Grid & cues' },
  { name: 'order', label: 'Running order' },
  { name: 'edits', label: 'Edits' },
  { name: 'transitions', label: 'Transitions' },
  { name: 'layers', label: 'Layers' },
  { name: 'render', label: 'Render' },
  { name: 'stick', label: 'Stick' },
] as const
const OF_NO_MIX: string[] = ['tracks', 'grid', 'stick']

const needsMix = (name: string) => !mixId && !OF_NO_MIX.includes(name)

function to(name: string) {
  if (OF_NO_MIX.includes(name)) return { name }
  const number = { transitions: placeIn(mixId).transition, edits: placeIn(mixId).entry }[name]
  return { name, params: { mix: mixId, ...(number && { number }) } }
}

/** By its number in the rail; 9 is the list of mixes. */
function goToView({ key }: Press) {
  const number = Number(key.slice(-1))
  const place = places[number - 1]
  if (!place) void router.push({ name: 'start' })
  else if (!needsMix(place.name)) void router.push(to(place.name))
}

useKeys('Views', [
  {
    keys: [1, 2, 3, 4, 5, 6, 7, 8, 9].map((n) => `shift+${n}`),
    shown: 'Shift 1–8',
    label: 'The view, as they stand in the rail; Shift 9, all mixes',
    run: goToView,
  },
])
</script>

<template>
  <nav class="rail" aria-label="Work">
    <RouterLink class="mark" :to="{ name: 'start' }" title="All mixes">
      <img src="/fern.svg" alt="Fernbrook: all mixes" width="30" height="30" />
    </RouterLink>
    <template v-for="(place, number) in places" :key="place.name">
      <span
        v-if="needsMix(place.name)"
        class="place off"
        role="link"
        aria-disabled="true"
        title="Open a mix first, or make one"
      >
        <RailIcon :name="place.name" />
        <span>{{ place.label }}</span>
      </span>
      <RouterLink
        v-else
        class="place"
        active-class=""
        exact-active-class=""
        :class="{ 'is-here': route.name === place.name }"
        :aria-current="route.name === place.name ? 'page' : undefined"
        :title="`Shift ${number + 1}`"
        :to="to(place.name)"
      >
        <RailIcon :name="place.name" />
        <span>{{ place.label }}</span>
      </RouterLink>
    </template>
    <button
      type="button"
      class="place keys"
      :title="`All keys of this view (${keyFor('?')})`"
      @click="$emit('keys')"
    >
      <GlyphIcon name="keys" :size="22" />
      <span>Keys</span>
    </button>
  </nav>
</template>

<style scoped>
.rail {
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 10px 6px;
  border-right: 1px solid var(--line);
}

.mark {
  display: grid;
  place-items: center;
  height: 44px;
  margin-bottom: 8px;
  border-radius: var(--radius);
}

.place {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 3px;
  padding: 9px 2px 7px;
  border-radius: var(--radius);
  color: var(--ink-soft);
  font-size: 12px;
  line-height: 1.15;
  text-align: center;
  text-decoration: none;
}

.keys {
  margin-top: auto;
  border: 0;
  background: none;
  font: inherit;
  font-size: 12px;
  cursor: pointer;
}

.place:hover {
  background: var(--sunken);
  color: var(--ink);
}

.place.off,
.place.off:hover {
  background: none;
  color: var(--ink-faint);
  cursor: default;
  opacity: 0.6;
}

.place.is-here {
  background: var(--fern-soft);
  color: var(--fern);
  font-weight: 600;
}

@media (max-width: 860px) {
  .rail {
    padding: 6px 2px;
    overflow-y: auto;
  }

  .place {
    padding: 5px 1px;
    font-size: 11px;
    hyphens: auto;
  }
}
</style>
