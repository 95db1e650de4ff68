<script setup lang="ts">
import { Button, Dropdown, Menu, MenuItem } from 'ant-design-vue'
import type { SortBy } from '../../api/types'
import type { EntryActions } from '../../composables/order/useEntryActions'
import { useFresh } from '../../stores/fresh'
import { useMix } from '../../stores/mix'
import GlyphIcon from '../shared/GlyphIcon.vue'
import HoldTempo from './HoldTempo.vue'
import { keyFor } from '../../composables/page/useKeys'

const SORTS: { by: SortBy; falling: boolean; label: string }[] = [
  { by: 'tempo', falling: false, label: 'Tempo, rising' },
  { by: 'tempo', falling: true, label: 'Tempo, falling' },
  { by: 'key', falling: false, label: 'Key, round the circle of fifths' },
  { by: 'energy', falling: false, label: 'Energy, rising' },
  { by: 'energy', falling: true, label: 'Energy, falling' },
  { by: 'artist', falling: false, label: 'Artist' },
  { by: 'title', falling: false, label: 'Title' },
  { by: 'length', falling: false, label: 'Length, the shortest first' },
]

/** What is done with the order as a whole, or with the entries that are chosen. */
defineProps<{ actions: EntryActions; count: number }>()
const emit = defineEmits<{ find: []; showNew: [] }>()

const mix = useMix()
const fresh = useFresh()
</script>

<template>
  <div class="tools" role="toolbar" aria-label="The order">
    <Button type="primary" size="small" :disabled="count < 2" @click="emit('find')">Find an order</Button>
    <Dropdown :trigger="['click']">
      <Button size="small">Sort <GlyphIcon name="down" :size="12" /></Button>
      <template #overlay>
        <Menu>
          <MenuItem
            v-for="s in SORTS"
            :key="s.label"
            @click="mix.send({ kind: 'sort_entries', by: s.by, falling: s.falling })"
            >{{ s.label }}</MenuItem
          >
        </Menu>
      </template>
    </Dropdown>
    <template v-if="actions.some.value.length">
      <span class="soft chosen-count">{{ actions.some.value.length }} chosen</span>
      <Button
        v-if="actions.isTogether.value || actions.isKept.value"
        size="small"
        :title="keyFor('t')"
        @click="actions.keep(false)"
        >Together no more</Button
      >
      <Button
        v-if="actions.some.value.length > 1 && !actions.isTogether.value"
        size="small"
        :title="keyFor('t')"
        @click="actions.keep(true)"
        ><GlyphIcon name="together" :size="13" /> Keep together</Button
      >
      <Button
        v-if="actions.some.value.length === 1"
        size="small"
        :title="keyFor('f')"
        @click="actions.toggleFixed()"
        ><GlyphIcon name="pin" :size="13" /> {{ actions.isFixed.value ? 'Let go' : 'Fix' }}</Button
      >
      <HoldTempo :entries="actions.some.value" />
      <Button size="small" :title="keyFor('d')" @click="actions.duplicate()">Once more</Button>
      <Button size="small" title="Delete" @click="actions.remove()">Cut</Button>
    </template>
    <span class="gap" />
    <span v-if="fresh.places.length" class="fresh" role="status">
      {{ fresh.places.length === 1 ? 'One transition is new' : `${fresh.places.length} transitions are new` }}
      <Button type="link" size="small" :title="keyFor('n')" @click="emit('showNew')">Show</Button>
      <button type="button" class="dismiss" aria-label="They are fine" @click="fresh.seen()">
        <GlyphIcon name="close" :size="12" />
      </button>
    </span>
  </div>
</template>

<style scoped>
.tools {
  padding: 0 10px;
  background: var(--ground);
}

.chosen-count {
  margin-left: 8px;
}

.fresh {
  display: flex;
  align-items: center;
  gap: 4px;
  padding-left: 10px;
  border: 1px solid var(--fern);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--fern);
}

.dismiss {
  padding: 4px 8px;
  border: 0;
  background: none;
  color: inherit;
  cursor: pointer;
}
</style>
