<script setup lang="ts">
import { refDebounced, useVirtualList } from '@vueuse/core'
import { Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { matching, sorted } from '../../library/trackTable'
import { trackPiece } from '../../sound/pieces'
import { useTracks } from '../../composables/useTracks'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'
import { bpm, clockTime } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'

const ROW = 48

const mix = useMix()
const listening = useListening()
const { data: tracks } = useTracks()
const search = ref('')
const searched = refDebounced(search, 80)
const ordered = computed(() => sorted(tracks.value ?? [], 'title', true))
const found = computed(() => matching(ordered.value, searched.value))
const { list, containerProps, wrapperProps } = useVirtualList(found, { itemHeight: ROW, overscan: 6 })
const used = computed(() => new Set(mix.plan?.entries.map((e) => e.track_id)))

function add(ids: string[]) {
  void mix.send({ kind: 'add_tracks', track_ids: ids })
}
</script>

<template>
  <aside class="shelf" aria-label="Library">
    <div class="top">
      <h2>Library</h2>
      <Input
        v-model:value="search"
        size="small"
        placeholder="Search"
        aria-label="Search the library"
        allow-clear
      />
    </div>
    <div v-if="found.length" v-bind="containerProps" class="box">
      <ul v-bind="wrapperProps" :aria-label="`${found.length} tracks`">
        <li v-for="{ data: track } in list" :key="track.id">
          <button
            type="button"
            class="listen"
            :aria-label="`Listen to ${track.title}`"
            @click="listening.play(trackPiece(track))"
          >
            <GlyphIcon name="play" :size="12" />
          </button>
          <div class="names">
            <span class="clip" :class="{ used: used.has(track.id) }">{{ track.title }}</span>
            <span class="clip soft">{{ track.artist }}</span>
          </div>
          <span class="facts soft"
            >{{ track.bpm === null ? '–' : bpm(track.bpm) }}<br />{{ clockTime(track.duration_s) }}</span
          >
          <button
            type="button"
            class="add"
            :aria-label="`Add ${track.title}`"
            :title="used.has(track.id) ? 'Add it once more' : 'Add at the end'"
            @click="add([track.id])"
          >
            <GlyphIcon name="plus" />
          </button>
        </li>
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

.top {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 10px 14px;
  border-bottom: 1px solid var(--line);
}

.box {
  flex: 1;
  min-height: 0;
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 26px minmax(0, 1fr) 44px 28px;
  align-items: center;
  gap: 8px;
  height: 48px;
  padding: 0 12px 0 8px;
  border-bottom: 1px solid var(--line);
}

.listen {
  width: 26px;
  height: 26px;
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

.none {
  display: block;
  padding: 14px;
}
</style>
