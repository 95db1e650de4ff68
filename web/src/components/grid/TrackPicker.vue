<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { matching, type ListedTrack } from '../../library/trackTable'

const MOST = 60

/** A track chosen by typing some of its words; as many are listed as anyone would read. */
const { tracks, chosen } = defineProps<{ tracks: readonly ListedTrack[]; chosen: string | undefined }>()
const emit = defineEmits<{ choose: [id: string] }>()

const box = useTemplateRef<HTMLElement>('box')
const list = useTemplateRef<HTMLElement>('list')
const open = ref(false)
const typed = ref('')
const at = ref(0)

const labelOf = (t: ListedTrack) => (t.artist ? `${t.title} – ${t.artist}` : t.title)
const current = computed(() => tracks.find((t) => t.id === chosen))
const found = computed(() => matching(tracks, typed.value))
const shown = computed(() => found.value.slice(0, MOST))
onClickOutside(box, close)

function show() {
  if (open.value) return
  typed.value = ''
  at.value = Math.max(
    0,
    shown.value.findIndex((t) => t.id === chosen),
  )
  open.value = true
}

function close() {
  open.value = false
}

function take(track: ListedTrack | undefined) {
  close()
  if (track && track.id !== chosen) emit('choose', track.id)
}

async function move(by: number) {
  show()
  at.value = Math.min(Math.max(at.value + by, 0), shown.value.length - 1)
  await nextTick()
  list.value?.children[at.value]?.scrollIntoView({ block: 'nearest' })
}

function type(event: Event) {
  show()
  typed.value = (event.target as HTMLInputElement).value
  at.value = 0
}
</script>

<template>
  <div ref="box" class="picker">
    <input
      :value="open ? typed : current ? labelOf(current) : ''"
      role="combobox"
      aria-label="Track"
      aria-controls="track-list"
      aria-autocomplete="list"
      :aria-expanded="open"
      :aria-activedescendant="open && shown.length ? `track-${at}` : undefined"
      :placeholder="current ? labelOf(current) : 'Choose a track'"
      autocomplete="off"
      @focus="($event.target as HTMLInputElement).select()"
      @mousedown="show"
      @input="type"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
      @keydown.enter.prevent="open ? take(shown[at]) : show()"
      @keydown.esc.stop="close"
      @keydown.tab="close"
    />
    <ul v-show="open" id="track-list" ref="list" role="listbox" aria-label="Tracks">
      <li
        v-for="(track, i) in open ? shown : []"
        :id="`track-${i}`"
        :key="track.id"
        role="option"
        class="clip"
        :class="{ at: i === at }"
        :aria-selected="track.id === chosen"
        @mousedown.prevent="take(track)"
        @mousemove="at = i"
      >
        {{ labelOf(track) }}
      </li>
    </ul>
    <p v-if="open && !found.length" class="none soft">No track matches ‘{{ typed }}’.</p>
    <p v-else-if="open && found.length > MOST" class="none soft">
      {{ found.length - MOST }} more: type to find them
    </p>
  </div>
</template>

<style scoped>
.picker {
  position: relative;
  width: 270px;
}

input {
  width: 100%;
  height: 30px;
  padding: 0 10px;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  text-overflow: ellipsis;
}

ul {
  position: absolute;
  z-index: 20;
  top: 32px;
  left: 0;
  width: 340px;
  max-height: 380px;
  margin: 0;
  padding: 4px;
  overflow-y: auto;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background: var(--sheet);
  box-shadow: var(--shadow);
}

li {
  padding: 4px 8px;
  border-radius: 3px;
  cursor: pointer;
}

.at {
  background: var(--fern-soft);
}

li[aria-selected='true'] {
  font-weight: 600;
}

.none {
  position: absolute;
  z-index: 21;
  top: 414px;
  left: 0;
  width: 340px;
  margin: 0;
  padding: 6px 12px;
  border-radius: var(--radius);
  background: var(--sheet);
  box-shadow: var(--shadow);
}
</style>
