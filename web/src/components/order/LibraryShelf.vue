<script setup lang="ts">
import { refDebounced, useVirtualList } from '@vueuse/core'
import { Input, Segmented } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Entry } from '../../api/types'
import { useFits, useFound } from '../../composables/library/useLibrary'
import { carry } from '../../composables/library/useListOrder'
import { useTryTwo } from '../../composables/mix/useTryTwo'
import { useTracks } from '../../composables/library/useTracks'
import { trackPiece } from '../../sound/pieces'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'
import GlyphIcon from '../shared/GlyphIcon.vue'
import JumpPane from './JumpPane.vue'
import ScopePicker from './ScopePicker.vue'
import ShelfRow from './ShelfRow.vue'

const ROW = 48
const WHAT = [
  { value: 'all', label: 'All' },
  { value: 'fits', label: 'Fits here' },
]

/** The library beside the order: all of it, or what fits after the chosen entry and before the next. */
const props = defineProps<{ chosen: Entry | undefined; replacing: Entry | undefined }>()
const emit = defineEmits<{ replaced: [] }>()
const what = defineModel<string>('what', { required: true })

const mix = useMix()
const listening = useListening()
const { data: tracks } = useTracks()
const byId = computed(() => new Map((tracks.value ?? []).map((t) => [t.id, t])))
const tryTwo = useTryTwo()
const search = ref('')
const searched = refDebounced(search, 120)
const list = ref<string>()
const sort = computed(() => (list.value ? '' : 'title'))
const { data: foundIds, error } = useFound(searched, sort, list)
const next = computed(() => (props.chosen ? mix.plan?.entries[props.chosen.index + 1] : undefined))

/** After the last there is no jump to be bridged: there, what goes well after it. */
const fitsAfter = computed(() => (what.value === 'fits' && !next.value ? props.chosen?.track_id : undefined))
const { data: fits } = useFits(fitsAfter, ref(false))
const ids = computed(() =>
  fitsAfter.value ? (fits.value ?? []).map((f) => f.id) : (foundIds.value?.ids ?? []),
)
const found = computed(() => ids.value.flatMap((id) => byId.value.get(id) ?? []))
const { list: rows, containerProps, wrapperProps } = useVirtualList(found, { itemHeight: ROW, overscan: 6 })
const used = computed(() => new Set(mix.plan?.entries.map((e) => e.track_id)))
const title = computed(() => (props.chosen ? `Add after ${props.chosen.title}` : 'Add at the end'))

/** Apart from the mix, with the way back to where it would come in. */
function tryAfter(id: string) {
  if (props.chosen && mix.mix)
    void tryTwo(props.chosen.track_id, id, { mix: mix.mix.id, at: props.chosen.index + 1 })
}

async function add(id: string) {
  if (props.replacing) {
    if (await mix.send({ kind: 'replace_track', entry_id: props.replacing.id, track_id: id }))
      emit('replaced')
    return
  }
  await mix.send({ kind: 'add_tracks', track_ids: [id], at: props.chosen ? props.chosen.index + 1 : null })
}
</script>

<template>
  <aside class="shelf" aria-label="Library">
    <p v-if="replacing" class="replacing" role="status">
      <span class="clip"
        >What takes the place of <strong>{{ replacing.title }}</strong>?</span
      >
      <button type="button" aria-label="Leave it as it is" @click="emit('replaced')">
        <GlyphIcon name="close" :size="13" />
      </button>
    </p>
    <div class="top">
      <h2>Library</h2>
      <Segmented
        v-if="!replacing"
        v-model:value="what"
        :options="WHAT"
        size="small"
        aria-label="Which tracks"
      />
    </div>
    <div class="top where">
      <Input
        v-model:value="search"
        size="small"
        placeholder="Search"
        aria-label="Search the library"
        allow-clear
      />
      <ScopePicker v-model:list="list" v-model:search="search" label="Part of the library" />
    </div>
    <p v-if="error" class="soft none">{{ error.message }}</p>
    <p v-else-if="what === 'fits' && !replacing && !chosen" class="soft none">
      Choose a row of the order: what fits after it, and before the next, is listed here.
    </p>
    <JumpPane
      v-else-if="what === 'fits' && !replacing && chosen && next"
      :out="chosen"
      :into="next"
      :by-id="byId"
      :search="searched"
      :list="list"
    />
    <div v-else-if="found.length" v-bind="containerProps" class="box">
      <ul v-bind="wrapperProps" :aria-label="`${found.length} tracks`">
        <ShelfRow
          v-for="{ data: track } in rows"
          :key="track.id"
          :track="track"
          :used="used.has(track.id)"
          :verb="replacing ? 'Use' : 'Add'"
          :title="replacing ? 'Use it in its place' : title"
          :can-try="!!chosen && !replacing"
          @try="tryAfter(track.id)"
          @listen="listening.play(trackPiece(track))"
          @add="add(track.id)"
          @carry="(event) => carry(event, [track.id])"
        />
      </ul>
    </div>
    <p v-else-if="tracks?.length" class="soft none">No track matches ‘{{ search }}’.</p>
    <p v-else class="soft none">
      The library is empty. <RouterLink :to="{ name: 'tracks' }">Bring tracks in</RouterLink> or drop files
      here.
    </p>
  </aside>
</template>

<style scoped>
.shelf {
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--sheet);
}

.replacing {
  display: flex;
  align-items: center;
  gap: 6px;
  margin: 0;
  padding: 6px 12px;
  background: var(--fern-soft);
  color: var(--fern);
}

.replacing button {
  margin-left: auto;
  border: 0;
  background: none;
  color: inherit;
  cursor: pointer;
}

.top {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 10px;
  padding: 8px 12px 0;
}

.where {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 6px;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--line);
}

.box {
  flex: 1;
  min-height: 0;
}

.none {
  display: block;
  padding: 14px;
}
</style>
