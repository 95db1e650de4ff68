<script setup lang="ts">
import { useStorage, useVirtualList } from '@vueuse/core'
import { Button, Skeleton } from 'ant-design-vue'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import ArrivalTray from '../components/tracks/ArrivalTray.vue'
import ChosenBar from '../components/tracks/ChosenBar.vue'
import ColumnPicker from '../components/tracks/ColumnPicker.vue'
import FilePicker from '../components/shared/FilePicker.vue'
import FitsPane from '../components/tracks/FitsPane.vue'
import GlyphIcon from '../components/shared/GlyphIcon.vue'
import LibrarySide from '../components/tracks/LibrarySide.vue'
import LibraryStrip from '../components/tracks/LibraryStrip.vue'
import SearchFields from '../components/tracks/SearchFields.vue'
import { askNames, askRemoval } from '../components/tracks/trackDialogs'
import TableHead from '../components/tracks/TableHead.vue'
import TrackRow from '../components/tracks/TrackRow.vue'
import WriteFiles from '../components/tracks/WriteFiles.vue'
import UndoButtons from '../components/shared/UndoButtons.vue'
import { attempt } from '../composables/page/attempt'
import { takeDrops } from '../composables/page/useDropTaker'
import { undoKeys, useKeys } from '../composables/page/useKeys'
import { useGathered, useLibraryActions } from '../composables/library/useLibrary'
import { useMixes } from '../composables/mix/useMixes'
import { useImport } from '../composables/library/useImport'
import { useFoundTracks } from '../composables/library/useFoundTracks'
import { useListOrder } from '../composables/library/useListOrder'
import { useRowWalk } from '../composables/library/useRowWalk'
import { useSelection } from '../composables/library/useSelection'
import { useSweep } from '../composables/library/useSweep'
import { useTimeLeft } from '../composables/library/useTimeLeft'
import { useTrackTable } from '../composables/library/useTrackTable'
import { useTrackWork } from '../composables/library/useTrackWork'
import { useTrackUse } from '../composables/library/useTrackUse'
import { useTrackActions, useTracks } from '../composables/library/useTracks'
import type { ListedTrack } from '../library/trackTable'
import { aboutTime, clockTime } from '../time/format'

const ROW = 50
const JUMP_S = 30

const { data: tracks, isPending, error, refetch } = useTracks()
const { data: gathered } = useGathered()
const { data: mixes } = useMixes()
const actions = useTrackActions()
const library = useLibraryActions()
const { analyse, acceptSuggested } = useTrackWork()
const router = useRouter()

const search = ref('')
const list = ref<string>()
const table = useTrackTable()
const showsFits = useStorage('fernbrook.fits', false)

const { searched, byId, shown, problem, isFound, isByColumn } = useFoundTracks({
  tracks,
  search,
  list,
  table,
})
const ids = computed(() => shown.value.map((t) => t.id))
const selection = useSelection(ids)
const { list: rows, containerProps, wrapperProps, scrollTo } = useVirtualList(shown, { itemHeight: ROW, overscan: 6 }) // prettier-ignore
const { columns, layout } = table
const { press, release, sweep } = useSweep(selection)
const walk = useRowWalk({ selection, box: containerProps.ref, rowHeight: ROW })
const chosenTracks = computed(() =>
  selection.list.value.map((id) => byId.value.get(id)).filter((t) => t !== undefined),
)
const current = computed(() => byId.value.get(selection.cursor.value ?? ''))
const { toLastList, addTo, playTelling, jump } = useTrackUse({ byId, selection, list })

takeDrops({
  words: () => listName.value && `Let go to bring these files into the library and onto ‘${listName.value}’`,
  at: () => {
    const id = list.value
    return id === undefined ? undefined : (arrived) => attempt(() => library.addToList(id, arrived))
  },
})

const doubtful = computed(() => (tracks.value ?? []).filter((t) => !t.checked && t.doubts.length).length)
const outdated = computed(() => (tracks.value ?? []).filter((t) => t.outdated && !t.analysis))
const waiting = computed(() => tracks.value?.filter((t) => t.analysis?.state === 'waiting').length ?? 0)
const total = computed(() => clockTime(shown.value.reduce((sum, t) => sum + t.duration_s, 0)))
/** Seconds of music that are still to be analysed. */
const toAnalyse = computed(() =>
  (tracks.value ?? []).reduce((sum, { analysis, duration_s }) => {
    if (analysis?.state === 'waiting') return sum + duration_s
    return analysis?.state === 'running' ? sum + duration_s * (1 - analysis.progress) : sum
  }, 0),
)
const timeLeft = useTimeLeft(toAnalyse)
const analysing = computed(() => {
  if (!toAnalyse.value) return ''
  const left = timeLeft.value === undefined ? '' : `, ${aboutTime(timeLeft.value)}`
  return waiting.value ? `${waiting.value} to analyse${left}` : `analysing${left}`
})
const listName = computed(() => gathered.value?.lists.find((l) => l.id === list.value)?.name)

watch([searched, list], () => scrollTo(0))
// Files come and go while nobody looks: they are looked for when the list is opened, and when some have come in. Where
// the server does not answer, the list itself says so.
const { isBusy } = useImport()
watch(isBusy, (busy) => void (busy || library.lookForFiles().catch(() => undefined)), { immediate: true })

/** Whether the rows stand in a list's own order. */
const ownOrder = computed(() => list.value !== undefined && !isByColumn.value && !searched.value.trim())
function showOwnOrder() {
  table.unsort()
  search.value = ''
}
const order = useListOrder({ list, ids, isOwn: ownOrder, selection, library })

function go(id: string) {
  selection.choose(id)
  const at = ids.value.indexOf(id)
  if (at < 0) search.value = ''
  else scrollTo(at)
}

const rename = (track: ListedTrack) =>
  askNames(track, (title, artist) => library.rename(track.id, title, artist))

const remove = (some: ListedTrack[]) =>
  askRemoval(some, async () => {
    for (const t of some) await actions.remove(t.id)
    selection.none()
  })

const writes = ref(false)
const fields = useTemplateRef('fields')
const bar = useTemplateRef('bar')
const orChosen = () => (chosenTracks.value.length ? chosenTracks.value : current.value ? [current.value] : [])

useKeys('Tracks', [
  {
    keys: ['ArrowUp', 'ArrowDown'],
    label: 'Walk the list; with shift, choose what lies between',
    run: (e) => walk(e.key === 'ArrowUp' ? -1 : 1, e.shiftKey),
  },
  { keys: ['PageUp', 'PageDown'], run: (e) => walk(e.key === 'PageUp' ? -10 : 10, e.shiftKey) },
  { keys: ['Enter'], label: 'Play from its most telling place', run: () => void playTelling() },
  {
    keys: ['ArrowLeft', 'ArrowRight'],
    label: '30 seconds back, on',
    run: (e) => jump(e.key === 'ArrowLeft' ? -JUMP_S : JUMP_S),
  },
  { keys: ['ctrl+a'], label: 'Choose all', run: () => selection.all() },
  { keys: ['Escape'], label: 'Choose none', run: () => selection.none() },
  { keys: ['/', 'ctrl+f'], label: 'Search', run: () => fields.value?.focus() },
  { keys: ['t'], label: 'Tag what is chosen', run: () => void bar.value?.startTagging() },
  { keys: ['m'], label: 'To the mix that was changed last', run: () => void (selection.list.value.length && addTo(mixes.value?.[0]?.id ?? '')) }, // prettier-ignore
  { keys: ['i'], label: 'To the list that was used last', run: () => void toLastList() },
  {
    keys: ['[', ']'],
    label: 'Up, down in the list that is open',
    run: (e) => order.shift(e.key === '[' ? -1 : 1),
  },
  { keys: ['w'], label: 'What fits', run: () => void (showsFits.value = !showsFits.value) },
  { keys: ['r'], label: 'Rename', run: () => void (current.value && rename(current.value)) },
  { keys: ['g'], label: 'Grid & cues', run: () => void (current.value && router.push({ name: 'grid', params: { track: current.value.id } })) }, // prettier-ignore
  { keys: ['Delete'], label: 'Remove…', run: () => remove(orChosen()) },
  ...undoKeys(
    () => attempt(library.undo),
    () => attempt(library.redo),
  ),
])
</script>

<template>
  <section class="tracks">
    <header>
      <h1>Tracks</h1>
      <span v-if="tracks?.length" class="soft sum">
        {{ shown.length === tracks.length ? tracks.length : `${shown.length} of ${tracks.length}` }} ·
        {{ total }}<template v-if="analysing"> · {{ analysing }}</template>
      </span>
      <SearchFields v-if="tracks?.length" ref="fields" v-model:search="search" :problem="problem" />
      <Button
        v-if="outdated.length"
        size="small"
        class="outdated"
        title="A newer analysis finds more; what was set by hand stays"
        @click="analyse(outdated)"
      >
        Analyse {{ outdated.length }} again
      </Button>
      <span class="end" />
      <UndoButtons
        v-if="tracks?.length"
        :undo="gathered?.undo"
        :redo="gathered?.redo"
        @undo="attempt(library.undo)"
        @redo="attempt(library.redo)"
      />
      <ColumnPicker :table="table" />
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
    <div v-else class="library" :class="{ fits: showsFits }">
      <LibrarySide v-model:search="search" v-model:list="list" :total="tracks.length" />
      <div class="main">
        <ChosenBar
          v-if="chosenTracks.length"
          ref="bar"
          :tracks="chosenTracks"
          :list="list"
          @none="selection.none()"
          @analyse="analyse(chosenTracks)"
          @remove="remove(chosenTracks)"
          @mix="(id) => addTo(id)"
          @files="writes = true"
          @accept="acceptSuggested(chosenTracks)"
        />
        <LibraryStrip
          v-else
          v-model:fits="showsFits"
          :list-name="listName"
          :own-order="ownOrder"
          :doubtful="doubtful"
          @own-order="showOwnOrder"
        />
        <div class="table" role="table" aria-label="Tracks" :aria-rowcount="shown.length + 1">
          <TableHead class="row" :table="table" @sort="scrollTo(0)" />
          <div v-bind="containerProps" class="rows" role="presentation">
            <div v-bind="wrapperProps" role="rowgroup">
              <TrackRow
                v-for="item in rows"
                :key="item.data.id"
                class="row"
                :style="layout"
                :aria-rowindex="item.index + 2"
                :track="item.data"
                :columns="columns"
                :chosen="selection.chosen.value.has(item.data.id)"
                :current="selection.cursor.value === item.data.id"
                :draggable="selection.chosen.value.has(item.data.id)"
                :number="ownOrder ? item.index + 1 : undefined"
                :class="{ before: order.before.value === item.data.id }"
                @pointerdown="(e: PointerEvent) => press(e, item.data.id)"
                @pointerenter="sweep(item.data.id)"
                @click="(e: MouseEvent) => release(e, item.data.id)"
                @dblclick="playTelling(item.data.id)"
                @dragstart="(e: DragEvent) => order.start(e, item.data.id)"
                @dragover="(e: DragEvent) => order.over(e, item.data.id)"
                @dragleave="order.leave()"
                @drop="(e: DragEvent) => order.drop(e, item.data.id)"
                @rename="rename(item.data)"
                @remove="remove([item.data])"
                @fits="((showsFits = true), selection.choose(item.data.id))"
                @mix="addTo(mixes?.[0]?.id ?? '', [item.data.id])"
                @list="attempt(() => library.makeList('New list', [item.data.id]))"
              />
            </div>
            <p v-if="isFound && !problem && !shown.length" class="padded soft">
              No track matches ‘{{ searched || listName }}’.
              <Button size="small" @click="((search = ''), (list = undefined))">Show all</Button>
            </p>
          </div>
        </div>
      </div>
      <FitsPane
        v-if="showsFits"
        :track="current"
        :by-id="byId"
        @close="showsFits = false"
        @go="go"
        @listen="playTelling"
      />
      <WriteFiles v-model:open="writes" :tracks="chosenTracks" />
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
  gap: 12px;
  height: 56px;
  padding: 0 16px;
}

.sum {
  white-space: nowrap;
}

.end {
  margin-left: auto;
}

.library {
  display: grid;
  flex: 1;
  grid-template-columns: 196px minmax(0, 1fr);
  min-height: 0;
  border-top: 1px solid var(--line);
}

.library.fits {
  grid-template-columns: 196px minmax(0, 1fr) 300px;
}

.main {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}

.row {
  display: grid;
  grid-template-columns: var(--columns) minmax(120px, 1.4fr) 30px;
  align-items: center;
  gap: 10px;
  padding: 0 14px;
}

.before {
  box-shadow: inset 0 2px 0 var(--fern);
}

.table {
  position: relative;
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
  overflow-x: auto;
}

.rows {
  flex: 1;
  min-height: 0;
  user-select: none;
}

.padded {
  padding: 24px 20px;
}

.empty {
  max-width: 460px;
  margin: 12vh auto 0;
  text-align: center;
}

/* Beside what fits there is no room for waveforms: what a row is about goes first. */
@media (max-width: 1460px) {
  .fits .row {
    grid-template-columns: var(--columns) 30px;
    gap: 6px;
  }

  .fits :deep(.picture),
  .fits :deep(.waveform) {
    display: none;
  }
}

@media (max-width: 1180px) {
  header {
    flex-wrap: wrap;
    gap: 8px 12px;
    height: auto;
    min-height: 56px;
    padding: 10px 16px;
  }

  .rows {
    min-width: 860px;
  }
}
</style>
