<script setup lang="ts">
import { Button, Dropdown, Input, Menu, MenuDivider, MenuItem } from 'ant-design-vue'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { attempt } from '../../composables/page/attempt'
import { useGathered, useLibraryActions } from '../../composables/library/useLibrary'
import { useMixes } from '../../composables/mix/useMixes'
import { useTryTwo } from '../../composables/mix/useTryTwo'
import type { ListedTrack } from '../../library/trackTable'
import ReadNames from './ReadNames.vue'
import { keyFor } from '../../composables/page/useKeys'

/** What can be done to all chosen tracks at once. */
const props = defineProps<{ tracks: ListedTrack[]; list: string | undefined }>()
const emit = defineEmits<{ none: []; analyse: []; remove: []; mix: [id: string]; files: []; accept: [] }>()

const { data: gathered } = useGathered()
const { data: mixes } = useMixes()
const actions = useLibraryActions()
const tryTwo = useTryTwo()
const typed = ref('')
const tagging = ref(false)
const field = useTemplateRef<{ focus: () => void }>('field')

const ids = computed(() => props.tracks.map((t) => t.id))
const misread = computed(() => props.tracks.filter((t) => t.misread).map((t) => t.id))
const seconds = computed(() => props.tracks.reduce((sum, t) => sum + t.duration_s, 0))
const shared = computed(() => {
  const counts = new Map<string, number>()
  for (const t of props.tracks) for (const tag of t.tags) counts.set(tag, (counts.get(tag) ?? 0) + 1)
  return [...counts].sort((a, b) => b[1] - a[1]).slice(0, 6)
})
/** Tags that one may mean: the browser offers them as one types. */
const offered = computed(() => Object.keys(gathered.value?.tags ?? {}))

async function startTagging() {
  tagging.value = true
  await nextTick()
  field.value?.focus()
}
defineExpose({ startTagging })

async function tag() {
  const words = typed.value.split(',').map((w) => w.trim()).filter(Boolean) // prettier-ignore
  typed.value = ''
  if (words.length) await attempt(() => actions.tag(ids.value, words))
}

const untag = (tag: string) => attempt(() => actions.tag(ids.value, [], [tag]))

async function takeFromList() {
  const here = gathered.value?.lists.find((l) => l.id === props.list)
  const gone = new Set(ids.value)
  if (here)
    await attempt(() =>
      actions.changeList(here.id, { track_ids: here.track_ids.filter((t) => !gone.has(t)) }),
    )
}
</script>

<template>
  <div class="bar" role="toolbar" aria-label="Chosen tracks">
    <strong>{{ tracks.length }} chosen</strong>
    <span class="soft">{{ Math.round(seconds / 60) }} min</span>
    <template v-if="tagging">
      <Input
        ref="field"
        v-model:value="typed"
        class="field"
        size="small"
        list="known-tags"
        placeholder="Tag, another tag"
        aria-label="Tags for the chosen tracks"
        @press-enter="tag()"
        @keydown.esc="tagging = false"
      />
      <datalist id="known-tags">
        <option v-for="word in offered" :key="word" :value="word" />
      </datalist>
      <span class="tags">
        <button
          v-for="[word, count] in shared"
          :key="word"
          type="button"
          :title="`On ${count} of them: take it away`"
          @click="untag(word)"
        >
          {{ word }} ×
        </button>
      </span>
    </template>
    <Button v-else size="small" :title="`Tag them (${keyFor('t')})`" @click="startTagging">Tag</Button>
    <Dropdown :trigger="['click']">
      <Button size="small">To a list</Button>
      <template #overlay>
        <Menu>
          <MenuItem
            v-for="l in gathered?.lists"
            :key="l.id"
            @click="attempt(() => actions.addToList(l.id, ids))"
            >{{ l.name }}</MenuItem
          >
          <MenuDivider v-if="gathered?.lists.length" />
          <MenuItem key="new" @click="attempt(() => actions.makeList('New list', ids))">A new list</MenuItem>
        </Menu>
      </template>
    </Dropdown>
    <Dropdown :trigger="['click']">
      <Button size="small" title="To the mix that was changed last: M">To a mix</Button>
      <template #overlay>
        <Menu>
          <MenuItem v-for="m in mixes?.slice(0, 10)" :key="m.id" @click="emit('mix', m.id)">{{
            m.name
          }}</MenuItem>
          <MenuDivider v-if="mixes?.length" />
          <MenuItem key="new" @click="emit('mix', '')">A new mix</MenuItem>
        </Menu>
      </template>
    </Dropdown>
    <Button
      v-if="tracks.length === 2"
      size="small"
      title="Hear these two mixed, in this order"
      @click="tryTwo(tracks[0]!.id, tracks[1]!.id)"
      >Try pair</Button
    >
    <Button v-if="list" size="small" @click="takeFromList">Take from this list</Button>
    <Button
      size="small"
      title="Sets start, mix-in, mix-out and alone-from cues where there are none yet"
      @click="emit('accept')"
      >Accept suggested cues</Button
    >
    <Button size="small" title="Writes tags into the audio files" @click="emit('files')">Write tags…</Button>
    <ReadNames v-if="misread.length" :ids="misread" />
    <Button size="small" @click="emit('analyse')">Analyse again</Button>
    <Button size="small" danger title="Delete" @click="emit('remove')">Remove…</Button>
    <Button size="small" type="text" title="Escape" @click="emit('none')">None</Button>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding: 6px 14px;
  border-bottom: 1px solid var(--line);
  background: var(--fern-soft);
}

.field {
  width: 190px;
}

.tags {
  display: flex;
  gap: 4px;
}

.tags button {
  padding: 0 6px;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 12px;
  cursor: pointer;
}
</style>
