<script setup lang="ts">
import { useVirtualList } from '@vueuse/core'
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Entry } from '../api/types'
import EntryRow from '../components/order/EntryRow.vue'
import LibraryShelf from '../components/order/LibraryShelf.vue'
import OrderProfiles from '../components/order/OrderProfiles.vue'
import OrderTools from '../components/order/OrderTools.vue'
import MixStates from '../components/shell/MixStates.vue'
import ArrivalTray from '../components/tracks/ArrivalTray.vue'
import { useKeyNotation } from '../composables/page/preferences'
import { useEntryActions } from '../composables/order/useEntryActions'
import { takeDrops } from '../composables/page/useDropTaker'
import { useKeys } from '../composables/page/useKeys'
import { accept, carriesTracks, dragged } from '../composables/library/useListOrder'
import { useRowDrag } from '../composables/order/useRowDrag'
import { useRowWalk } from '../composables/library/useRowWalk'
import { useSelection } from '../composables/library/useSelection'
import { transitionPiece } from '../sound/pieces'
import { useFresh } from '../stores/fresh'
import { useListening } from '../stores/listening'
import { useMix } from '../stores/mix'
import { bpm } from '../time/format'
import { pointOfEntry, rangesOf } from '../time/profile'

const FindOrder = defineAsyncComponent(() => import('../components/order/FindOrder.vue'))

const ROW = 94
const LINE = 50
/** Rows that are drawn beyond those in view. */
const SPARE = 3
const COLUMN = 60
const mix = useMix()
const listening = useListening()
const fresh = useFresh()
const route = useRoute()
const router = useRouter()
const { keyOf } = useKeyNotation()

const entries = computed(() => mix.plan?.entries ?? [])
const ids = computed(() => entries.value.map((e) => e.id))
const { list, containerProps, wrapperProps } = useVirtualList(entries, {
  itemHeight: ROW,
  overscan: SPARE,
})
const selection = useSelection(ids)
const step = useRowWalk({ selection, box: containerProps.ref, rowHeight: ROW })
const actions = useEntryActions(selection.list)
const chosen = computed(() => entries.value.find((e) => e.id === selection.cursor.value))
const points = computed(() => entries.value.map((e) => pointOfEntry(e, e.key && keyOf(e))))
const ranges = computed(() => rangesOf(points.value))
const isNew = computed(() => new Set(fresh.places))

const what = ref('all')
const replacing = ref<Entry>()
/** The search for orders has an address of its own: a reload returns to it. */
const finding = computed({
  get: () => route.query.find !== undefined,
  set: (on) => void router.replace({ query: on ? { find: null } : {} }),
})

const { held, drag, shiftOf } = useRowDrag({
  box: containerProps.ref,
  rowHeight: ROW,
  count: computed(() => entries.value.length),
  along: (index) => {
    const entry = entries.value[index]!
    const some = selection.chosen.value.has(entry.id) ? selection.list.value : [entry.id]
    return withTheirGroups(some)
  },
  move: (rows, to) =>
    void actions.move(
      rows.map((i) => entries.value[i]!.id),
      to,
    ),
})

/** The places of entries and of all that is kept together with them. */
function withTheirGroups(some: readonly string[]): number[] {
  const rows = new Set(entries.value.filter((e) => some.includes(e.id)).map((e) => e.index))
  for (const row of rows) {
    for (let i = row; entries.value[i]?.with_next; i++) rows.add(i + 1)
    for (let i = row - 1; entries.value[i]?.with_next; i--) rows.add(i)
  }
  return [...rows].sort((a, b) => a - b)
}

function choose(event: MouseEvent, entry: Entry) {
  if (
    (event.target as Element).closest('button, a, input, [role=switch]') &&
    !event.shiftKey &&
    !event.ctrlKey
  )
    return
  selection.choose(entry.id, { add: event.ctrlKey || event.metaKey, range: event.shiftKey })
}

function hearAfter(entry = chosen.value) {
  const planned = entry && mix.plan?.transitions[entry.index]
  if (mix.mix && mix.clock && planned) listening.play(transitionPiece(mix.mix, mix.clock, planned))
}

function bridge(entry: Entry) {
  selection.choose(entry.id)
  replacing.value = undefined
  what.value = 'fits'
}

function goToNew() {
  const place = fresh.places[0]
  if (place !== undefined)
    void router.push({ name: 'transitions', params: { ...route.params, number: place + 1 } })
}

/** Tracks that are dropped below the rows come in at the end. */
function dropAtEnd(event: DragEvent) {
  if (!carriesTracks(event)) return
  accept(event)
  const track_ids = dragged(event)
  if (track_ids.length) void mix.send({ kind: 'add_tracks', track_ids })
}

takeDrops({
  words: () =>
    'Let go on the running order to put these files into the mix; anywhere else, into the library alone',
  at: (event) => {
    const { target } = event
    if (!(target instanceof Element) || !target.closest('[data-takes-files]')) return
    const before = target.closest<HTMLElement>('[data-entry]')?.dataset.entry
    const id = mix.mix?.id
    return (track_ids) => {
      // Where the row stands by then; a mix that was left meanwhile is left alone.
      const at = mix.plan?.entries.find((e) => e.id === before)?.index
      if (mix.mix?.id === id) void mix.send({ kind: 'add_tracks', track_ids, at })
    }
  },
})

watch(
  () => mix.mix?.id,
  () => selection.none(),
)

useKeys('Running order', [
  {
    keys: ['ArrowUp', 'ArrowDown'],
    label: 'Choose a row; with shift, more of them',
    run: (event) => step(event.key === 'ArrowDown' ? 1 : -1, event.shiftKey),
  },
  {
    keys: ['ctrl+arrowup', 'ctrl+arrowdown'],
    label: 'Move what is chosen',
    run: (event) => actions.shift(event.key === 'ArrowDown' ? 1 : -1),
  },
  { keys: ['ctrl+a'], label: 'Choose all', run: () => selection.all() },
  { keys: ['h'], label: 'Hear the transition after it', run: () => hearAfter() },
  { keys: ['b'], label: 'What bridges the jump after it', run: () => chosen.value && bridge(chosen.value) },
  { keys: ['t'], label: 'Keep together, or no more', run: () => actions.toggleKept() },
  { keys: ['f'], label: 'Fix its place, or let it go', run: () => actions.toggleFixed() },
  { keys: ['d'], label: 'Put in once more', run: () => void actions.duplicate() },
  { keys: ['Delete', 'Backspace'], label: 'Take out', run: () => void actions.remove() },
  { keys: ['n'], label: 'Go to the next new transition', run: goToNew },
])
</script>

<template>
  <MixStates>
    <FindOrder v-if="finding && entries.length > 1" @close="finding = false" />
    <div v-else class="order">
      <section
        class="list"
        aria-label="Running order"
        data-takes-files
        @dragover="carriesTracks($event) && accept($event)"
        @drop="dropAtEnd"
      >
        <ArrivalTray />
        <div v-if="!entries.length" class="empty">
          <h2>Nothing in this mix yet</h2>
          <p>
            Add tracks from the library on the right, or drag them here. They play in the order in which they
            stand; with a few of them in, the program can find good orders.
          </p>
        </div>
        <template v-else>
          <OrderTools :actions="actions" :count="entries.length" @find="finding = true" @show-new="goToNew" />
          <div class="head" aria-hidden="true">
            <span class="columns"
              ><span /><span /><span>Track</span><span>BPM</span><span>Key, shift</span><span>Key lock</span
              ><span>Gain</span><span class="starts">Starts</span><span
            /></span>
            <span class="scales">
              <span
                >Tempo<br />{{ bpm(Math.round(ranges.bpm.low)) }}–{{ bpm(Math.round(ranges.bpm.high)) }}</span
              >
              <span>Key<br />by fifths</span>
              <span
                >Energy<br />{{ Math.round(ranges.energy.low * 100) }}–{{
                  Math.round(ranges.energy.high * 100)
                }}
                %</span
              >
            </span>
          </div>
          <div v-bind="containerProps" class="box">
            <div class="body" v-bind="wrapperProps">
              <ol class="rows" :aria-label="`${entries.length} tracks in order`">
                <EntryRow
                  v-for="item in list"
                  :key="item.data.id"
                  :entry="item.data"
                  :count="entries.length"
                  :chosen="selection.chosen.value.has(item.data.id)"
                  :actions="actions"
                  :is-new="isNew.has(item.index)"
                  :class="{ held: held.has(item.index), moving: held.size > 0 }"
                  :style="{ height: `${ROW}px`, transform: `translateY(${shiftOf(item.index)}px)` }"
                  @grab="(event) => drag(event, item.index)"
                  @choose="(event) => choose(event, item.data)"
                  @bridge="bridge(item.data)"
                  @replace="replacing = item.data"
                />
              </ol>
              <OrderProfiles
                :points="points"
                :ranges="ranges"
                :shown="list.map((i) => i.index)"
                :row-height="ROW"
                :line-height="LINE"
                :column="COLUMN"
              />
            </div>
          </div>
        </template>
      </section>
      <LibraryShelf
        v-model:what="what"
        class="shelf"
        :chosen="chosen"
        :replacing="replacing"
        @replaced="replacing = undefined"
      />
    </div>
  </MixStates>
</template>

<style scoped>
.order {
  --order-columns: 20px 44px minmax(90px, 1fr) 104px 76px 32px 92px 40px 30px;
  --order-gap: 7px;

  display: grid;
  grid-template-columns: 1fr 264px;
  height: 100%;
}

.list {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}

.head {
  display: grid;
  grid-template-columns: 1fr 184px;
  align-items: end;
  padding-bottom: 4px;
  border-bottom: 1px solid var(--line-strong);
  color: var(--ink-soft);
  font-size: 12px;
  line-height: 1.25;
}

.columns {
  display: grid;
  grid-template-columns: var(--order-columns);
  gap: var(--order-gap);
  padding-left: 8px;
}

.scales {
  display: grid;
  grid-template-columns: repeat(3, 60px);
  white-space: nowrap;
}

.starts {
  text-align: right;
}

.box {
  flex: 1;
  min-height: 0;
}

.body {
  display: grid;
  grid-template-columns: 1fr 184px;
}

.rows {
  min-width: 0;
  margin: 0;
  padding: 0;
}

.moving {
  transition: transform 120ms;
}

.held {
  position: relative;
  z-index: 3;
  box-shadow: var(--shadow);
  transition: none;
}

.shelf {
  border-left: 1px solid var(--line);
}

.empty {
  max-width: 420px;
  margin: 16vh auto;
  text-align: center;
}

@media (max-width: 1180px) {
  .order {
    --order-columns: 18px 42px minmax(80px, 1fr) 90px 72px 30px 84px 36px 28px;
    --order-gap: 5px;

    grid-template-columns: 1fr 220px;
  }
}

@media (max-width: 860px) {
  .order {
    grid-template: minmax(360px, 1fr) 320px / 1fr;
    overflow: auto;
  }

  .list {
    overflow-x: auto;
  }

  .list .tools,
  .head,
  .box {
    min-width: 720px;
  }
}
</style>
