<script setup lang="ts">
import { Dropdown, Menu, MenuDivider, MenuItem } from 'ant-design-vue'
import { ref } from 'vue'
import type { Entry, Follows } from '../../api/types'
import { LAST, type EntryActions } from '../../composables/order/useEntryActions'
import { useMix } from '../../stores/mix'
import GlyphIcon from '../shared/GlyphIcon.vue'

const COUNTS = [
  { count: 0.5, label: 'Count half: one beat for each two of its own' },
  { count: 1, label: 'Count as it is' },
  { count: 2, label: 'Count double: two beats for each of its own' },
]

/** All that can be done to one entry; the menu is made when it is asked for. */
const { entry, actions } = defineProps<{ entry: Entry; actions: EntryActions; isKept: boolean }>()
const emit = defineEmits<{ replace: [] }>()
const mix = useMix()
const open = ref(false)

/** What its tempo may go by; what its track suggests is what it does without having been told. */
const TEMPI: { follows: Follows; label: string }[] = [
  { follows: 'own', label: 'Keep its own tempo throughout' },
  { follows: 'steady', label: 'Make it steady' },
  { follows: 'mix', label: 'Go at the tempo of the mix' },
]
</script>

<template>
  <button
    v-if="!open"
    type="button"
    class="dots"
    :aria-label="`More for ${entry.title}`"
    aria-haspopup="menu"
    @click.stop="open = true"
  >
    <GlyphIcon name="more" />
  </button>
  <Dropdown v-else v-model:open="open" :trigger="['click']" placement="bottomRight">
    <button
      type="button"
      class="dots"
      :aria-label="`More for ${entry.title}`"
      aria-expanded="true"
      @click.stop
    >
      <GlyphIcon name="more" />
    </button>
    <template #overlay>
      <Menu>
        <MenuItem key="here" @click="actions.fix(entry, entry.index + 1)"
          >Fix at place {{ entry.index + 1 }}</MenuItem
        >
        <MenuItem key="first" @click="actions.fix(entry, 1)">Fix as the first</MenuItem>
        <MenuItem key="last" @click="actions.fix(entry, LAST)">Fix as the last</MenuItem>
        <MenuItem v-if="entry.fixed !== null" key="free" @click="actions.fix(entry, null)"
          >Let it go from its place</MenuItem
        >
        <MenuItem
          v-if="isKept"
          key="apart"
          @click="mix.send({ kind: 'keep_together', entry_ids: [entry.id], together: false })"
          >Keep together no more</MenuItem
        >
        <MenuDivider />
        <MenuItem
          v-for="option in COUNTS"
          :key="option.count"
          :disabled="entry.count === option.count"
          @click="mix.send({ kind: 'set_count', entry_id: entry.id, count: option.count })"
        >
          {{ option.label }}
        </MenuItem>
        <MenuDivider />
        <MenuItem
          v-for="option in TEMPI"
          :key="option.follows"
          :disabled="entry.goes_by === option.follows"
          @click="mix.send({ kind: 'set_follows', entry_id: entry.id, follows: option.follows })"
        >
          {{ option.label }}
        </MenuItem>
        <MenuDivider />
        <MenuItem key="replace" @click="emit('replace')">Replace by another track …</MenuItem>
        <MenuItem key="twice" @click="mix.send({ kind: 'duplicate_entries', entry_ids: [entry.id] })"
          >Put in once more</MenuItem
        >
        <MenuItem key="remove" danger @click="mix.send({ kind: 'remove_entries', entry_ids: [entry.id] })"
          >Take out of the mix</MenuItem
        >
      </Menu>
    </template>
  </Dropdown>
</template>
