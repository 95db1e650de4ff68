<script setup lang="ts">
import { Dropdown, Menu, MenuItem, Modal } from 'ant-design-vue'
import { h, ref } from 'vue'
import { askTexts } from '../shared/askTexts'
import { attempt } from '../../composables/page/attempt'
import { useGathered, useLibraryActions } from '../../composables/library/useLibrary'
import { accept, carriesTracks, dragged } from '../../composables/library/useListOrder'
import { fieldOf, withField } from '../../library/searchText'
import GlyphIcon from '../shared/GlyphIcon.vue'

/** What tracks are gathered in: lists, saved filters, tags. Rows that are dragged here are put on a list or tagged. */
const { total } = defineProps<{ total: number }>()
const search = defineModel<string>('search', { required: true })
const list = defineModel<string | undefined>('list', { required: true })

const { data: gathered } = useGathered()
const actions = useLibraryActions()
const over = ref<string>()
const MOST_TAGS = 40

function enter(event: DragEvent, key: string) {
  if (!carriesTracks(event)) return
  accept(event)
  over.value = key
}

function drop(event: DragEvent, put: (ids: string[]) => Promise<unknown>) {
  over.value = undefined
  const ids = dragged(event)
  if (ids.length) void attempt(() => put(ids))
}

function everything() {
  list.value = undefined
  search.value = ''
}

function ask(title: string, value: string, ok: string, use: (name: string) => Promise<unknown>) {
  askTexts({
    title,
    ok,
    fields: [{ label: 'Name', value, maxLength: 120, needed: 'Type a name for it.' }],
    use: ([name]) => attempt(() => use(name!)),
  })
}

const newList = () =>
  ask('A new list', '', 'Make the list', async (name) => {
    list.value = (await actions.makeList(name)).id
  })
const keepSearch = () =>
  ask('Save this search as', '', 'Save', (name) => actions.saveFilter(name, search.value))

/** Make a list of what a file of another program names, and tell what is not here. */
async function readList(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  await attempt(async () => {
    const came = await actions.readList(file)
    list.value = came.id
    if (came.missing.length)
      Modal.info({
        title: `${came.entries - came.missing.length} of ${came.entries} tracks are here`,
        content: () => h('ul', came.missing.map((word) => h('li', word))), // prettier-ignore
        width: 560,
      })
  })
}

async function removeList(id: string) {
  if (list.value === id) list.value = undefined
  await attempt(() => actions.removeList(id))
}

function toggleTag(tag: string) {
  search.value = withField(search.value, 'tag', fieldOf(search.value, 'tag') === tag ? undefined : tag)
}
</script>

<template>
  <nav class="side" aria-label="Lists, filters and tags">
    <button type="button" class="item all" :aria-current="!list && !search" @click="everything">
      <span>All tracks</span><span class="count">{{ total }}</span>
    </button>

    <h3>
      Lists
      <span class="gap" />
      <label class="plus" title="Read a list from an M3U8 or XSPF file">
        <GlyphIcon name="save" :size="13" />
        <input
          class="visually-hidden"
          type="file"
          accept=".m3u,.m3u8,.pls,.xspf"
          aria-label="Read a list from a file"
          @change="readList"
        />
      </label>
      <button type="button" class="plus" aria-label="New list" title="New list" @click="newList">
        <GlyphIcon name="plus" :size="13" />
      </button>
    </h3>
    <p v-if="!gathered?.lists.length" class="soft none">Drag tracks onto a list to put them there.</p>
    <Dropdown v-for="l in gathered?.lists" :key="l.id" :trigger="['contextmenu']">
      <button
        type="button"
        class="item"
        :class="{ over: over === l.id }"
        :aria-current="list === l.id"
        :title="`${l.name}: right button for more`"
        @click="list = list === l.id ? undefined : l.id"
        @dragover="(e) => enter(e, l.id)"
        @dragleave="over = undefined"
        @drop.prevent.stop="(e) => drop(e, (ids) => actions.addToList(l.id, ids))"
      >
        <span class="clip">{{ l.name }}</span><span class="count">{{ l.track_ids.length }}</span>
      </button>
      <template #overlay>
        <Menu>
          <MenuItem
            key="rename"
            @click="ask('Name of the list', l.name, 'Rename', (name) => actions.changeList(l.id, { name }))"
            >Rename…</MenuItem
          >
          <MenuItem key="copy" @click="attempt(() => actions.duplicateList(l.id))">Duplicate</MenuItem>
          <MenuItem key="remove" danger @click="removeList(l.id)">Remove</MenuItem>
        </Menu>
      </template>
    </Dropdown>

    <h3>
      Saved filters
      <button
        type="button"
        class="plus"
        aria-label="Save this search"
        title="Save this search"
        :disabled="!search.trim()"
        @click="keepSearch"
      >
        <GlyphIcon name="plus" :size="13" />
      </button>
    </h3>
    <p v-if="!gathered?.filters.length" class="soft none">A search that is saved stays live.</p>
    <Dropdown v-for="f in gathered?.filters" :key="f.id" :trigger="['contextmenu']">
      <button
        type="button"
        class="item"
        :aria-current="search === f.search"
        :title="f.search"
        @click="((list = undefined), (search = search === f.search ? '' : f.search))"
      >
        <span class="clip">{{ f.name }}</span>
      </button>
      <template #overlay>
        <Menu>
          <MenuItem
            key="rename"
            @click="
              ask('Name of the filter', f.name, 'Rename', (name) =>
                actions.changeFilter(f.id, name, f.search),
              )
            "
            >Rename…</MenuItem
          >
          <MenuItem key="set" @click="attempt(() => actions.changeFilter(f.id, f.name, search))"
            >Set to the present search</MenuItem
          >
          <MenuItem key="remove" danger @click="attempt(() => actions.removeFilter(f.id))">Remove</MenuItem>
        </Menu>
      </template>
    </Dropdown>

    <h3>Tags</h3>
    <p v-if="gathered && !Object.keys(gathered.tags).length" class="soft none">
      Choose tracks and press T to tag them.
    </p>
    <div class="tags">
      <Dropdown
        v-for="[tag, count] in Object.entries(gathered?.tags ?? {}).slice(0, MOST_TAGS)"
        :key="tag"
        :trigger="['contextmenu']"
      >
        <button
          type="button"
          class="tag"
          :class="{ over: over === `tag/${tag}` }"
          :aria-pressed="fieldOf(search, 'tag') === tag"
          @click="toggleTag(tag)"
          @dragover="(e) => enter(e, `tag/${tag}`)"
          @dragleave="over = undefined"
          @drop.prevent.stop="(e) => drop(e, (ids) => actions.tag(ids, [tag]))"
        >
          {{ tag }} <span class="count">{{ count }}</span>
        </button>
        <template #overlay>
          <Menu>
            <MenuItem
              key="rename"
              @click="ask(`Call ‘${tag}’`, tag, 'Rename everywhere', (name) => actions.renameTag(tag, name))"
              >Rename or merge…</MenuItem
            >
            <MenuItem key="remove" danger @click="attempt(() => actions.removeTag(tag))"
              >Take from all tracks</MenuItem
            >
          </Menu>
        </template>
      </Dropdown>
    </div>
  </nav>
</template>

<style scoped>
.side {
  display: flex;
  flex-direction: column;
  overflow: auto;
  padding: 8px 8px 16px;
  border-right: 1px solid var(--line);
}

h3 {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin: 14px 0 2px;
  padding: 0 8px;
}

.plus {
  padding: 1px 3px;
  border: 0;
  border-radius: 3px;
  background: none;
  color: var(--fern);
  cursor: pointer;
}

.plus:disabled {
  color: var(--ink-faint);
  cursor: default;
}

.item {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  height: 28px;
  padding: 0 8px;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.item:hover {
  background: var(--sunken);
}

.item[aria-current='true'] {
  background: var(--fern-soft);
  color: var(--fern);
  font-weight: 600;
}

.over {
  outline: 2px solid var(--fern);
  outline-offset: -2px;
}

.count {
  color: var(--ink-faint);
  font-size: 12px;
  font-weight: 400;
}

.none {
  margin: 0;
  padding: 0 8px;
  font-size: 12px;
}

.tags {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding: 4px 6px;
}

.tag {
  padding: 0 7px;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 13px;
  line-height: 20px;
  cursor: pointer;
}

.tag[aria-pressed='true'] {
  border-color: var(--fern);
  background: var(--fern-soft);
}
</style>
