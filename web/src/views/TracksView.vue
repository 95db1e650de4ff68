<script setup lang="ts">
import { refDebounced, useVirtualList } from '@vueuse/core'
import { Button, Checkbox, Input, Segmented, Skeleton } from 'ant-design-vue'
import { computed, ref } from 'vue'
import PickField from '../components/shared/PickField.vue'
import ArrivalTray from '../components/tracks/ArrivalTray.vue'
import FilePicker from '../components/shared/FilePicker.vue'
import GlyphIcon from '../components/shared/GlyphIcon.vue'
import TrackRow from '../components/tracks/TrackRow.vue'
import { NOTATIONS, RANGES, useKeyNotation, useTempoRange } from '../composables/preferences'
import { useTrackActions, useTracks } from '../composables/useTracks'
import { COLUMNS, matching, sorted, type Column, type ListedTrack } from '../library/trackTable'
import { clockTime } from '../time/format'

const { data: tracks, isPending, error, refetch } = useTracks()
const actions = useTrackActions()

const SEARCH_MS = 80

const search = ref('')
const searched = refDebounced(search, SEARCH_MS)
const column = ref<Column>('added_at')
const rising = ref(false)
const onlyDoubtful = ref(false)
const { chosen } = useTempoRange()
const { notation } = useKeyNotation()
const isDoubtful = (t: ListedTrack) => !t.checked && !!t.doubts.length
const doubtful = computed(() => (tracks.value ?? []).filter(isDoubtful))
const outdated = computed(() => (tracks.value ?? []).filter((t) => t.outdated && !t.analysis))
/** All of them in order: typing into the search leaves this alone. */
const ordered = computed(() =>
  sorted(onlyDoubtful.value ? doubtful.value : (tracks.value ?? []), column.value, rising.value),
)
const shown = computed(() => matching(ordered.value, searched.value) as ListedTrack[])
const { list, containerProps, wrapperProps, scrollTo } = useVirtualList(shown, {
  itemHeight: 50,
  overscan: 6,
})

const waiting = computed(() => tracks.value?.filter((t) => t.analysis?.state === 'waiting').length ?? 0)
const total = computed(() => clockTime((tracks.value ?? []).reduce((sum, t) => sum + t.duration_s, 0)))

/** Newer code finds more; grids that were changed by hand or checked stay. */
async function analyseOutdated() {
  for (const t of outdated.value) await actions.analyse(t.id)
}

function sortBy(next: Column) {
  rising.value = column.value === next ? !rising.value : next !== 'added_at'
  column.value = next
  scrollTo(0)
}
</script>

<template>
  <section class="tracks">
    <header>
      <h1>Tracks</h1>
      <span v-if="tracks?.length" class="soft">
        {{ tracks.length }} · {{ total
        }}<template v-if="waiting"> · {{ waiting }} waiting to be analysed</template>
      </span>
      <Checkbox v-if="doubtful.length" v-model:checked="onlyDoubtful"
        >{{ doubtful.length }} to look at</Checkbox
      >
      <Button v-if="outdated.length" size="small" @click="analyseOutdated">
        Analyse {{ outdated.length }} again with what is new
      </Button>
      <Input
        v-model:value="search"
        class="search"
        placeholder="Search title, artist, file"
        aria-label="Search tracks"
        allow-clear
      >
        <template #prefix><GlyphIcon name="search" /></template>
      </Input>
      <Segmented v-model:value="notation" :options="NOTATIONS" aria-label="How keys are written" />
      <PickField
        v-model:value="chosen"
        class="range"
        :options="RANGES"
        label="Range of tempi"
        title="Where the beat of added files is looked for"
      />
      <FilePicker v-slot="{ pick }">
        <Button type="primary" @click="pick"><GlyphIcon name="plus" /> Add files</Button>
      </FilePicker>
    </header>

    <ArrivalTray />

    <div v-if="isPending" class="padded"><Skeleton active :paragraph="{ rows: 6 }" /></div>
    <div v-else-if="error" class="padded" role="alert">
      The list of tracks could not be loaded. {{ error.message }}
      <Button size="small" @click="refetch()">Try again</Button>
    </div>
    <div v-else-if="!tracks?.length" class="empty">
      <h2>The library is empty</h2>
      <p>
        Drop audio files anywhere on this page, or choose them. WAV, FLAC, MP3, Ogg, Opus, AIFF and M4A can be
        read.
      </p>
      <p>Press <strong>Add files</strong> above, or let them fall here.</p>
    </div>
    <div v-else class="table" role="table" aria-label="Tracks" :aria-rowcount="shown.length + 1">
      <div class="head row" role="row" aria-rowindex="1">
        <span
          v-for="c in COLUMNS"
          :key="c.key"
          :class="c.key"
          role="columnheader"
          :aria-sort="column === c.key ? (rising ? 'ascending' : 'descending') : undefined"
        >
          <button type="button" @click="sortBy(c.key)">
            {{ c.label }}<span v-if="column === c.key" class="arrow">{{ rising ? '↑' : '↓' }}</span>
          </button>
        </span>
        <span class="waveform" role="columnheader">Waveform</span>
        <span role="columnheader"><span class="visually-hidden">More</span></span>
      </div>
      <div v-bind="containerProps" class="rows" role="presentation">
        <div v-bind="wrapperProps" role="rowgroup">
          <TrackRow
            v-for="item in list"
            :key="item.data.id"
            class="row"
            :aria-rowindex="item.index + 2"
            :track="item.data"
          />
        </div>
        <p v-if="!shown.length" class="padded soft">
          No track matches ‘{{ searched }}’. <Button size="small" @click="search = ''">Show all</Button>
        </p>
      </div>
    </div>
  </section>
</template>

<style scoped>
.tracks {
  display: flex;
  flex-direction: column;
  height: 100%;
}

header {
  display: flex;
  align-items: center;
  gap: 14px;
  height: 60px;
  padding: 0 20px;
}

.search {
  width: 220px;
  margin-left: auto;
}

.range {
  width: 132px;
  height: 30px;
}

.row {
  display: grid;
  grid-template-columns:
    minmax(150px, 1.3fr) minmax(110px, 0.9fr) 74px 52px 60px 84px 118px 64px minmax(150px, 1.6fr)
    34px;
  align-items: center;
  gap: 12px;
  padding: 0 20px;
}

.head {
  height: 30px;
  border-bottom: 1px solid var(--line-strong);
  color: var(--ink-soft);
  font-size: 12px;
}

.head button {
  padding: 4px 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  white-space: nowrap;
  cursor: pointer;
}

.head button:hover,
.head [aria-sort] button {
  color: var(--ink);
}

.head .bpm,
.head .duration_s,
.head .loudness_lufs {
  text-align: right;
}

.arrow {
  padding-left: 3px;
}

.table {
  position: relative;
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}

.rows {
  flex: 1;
  min-height: 0;
}

.padded {
  padding: 24px 20px;
}

.empty {
  max-width: 460px;
  margin: 12vh auto 0;
  text-align: center;
}

@media (max-width: 1180px) {
  header {
    flex-wrap: wrap;
    gap: 8px 12px;
    height: auto;
    min-height: 60px;
    padding: 10px 20px;
  }

  header > * {
    white-space: nowrap;
  }

  .table {
    overflow-x: auto;
  }

  .head,
  .rows {
    min-width: 1010px;
  }
}
</style>
