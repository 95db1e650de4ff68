<script setup lang="ts">
import { useVirtualList } from '@vueuse/core'
import { computed } from 'vue'
import EntryRow from '../components/order/EntryRow.vue'
import LibraryShelf from '../components/order/LibraryShelf.vue'
import TempoProfile from '../components/order/TempoProfile.vue'
import MixStates from '../components/shell/MixStates.vue'
import { useRowDrag } from '../composables/useRowDrag'
import { useMix } from '../stores/mix'

const ROW = 82
/** Rows that are drawn beyond those in view. */
const SPARE = 4

const mix = useMix()
const entries = computed(() => mix.plan?.entries ?? [])
const { list, containerProps, wrapperProps } = useVirtualList(entries, { itemHeight: ROW, overscan: SPARE })

const { held, drag, shiftOf } = useRowDrag({
  box: containerProps.ref,
  rowHeight: ROW,
  count: computed(() => entries.value.length),
  move: (from, to) => void mix.send({ kind: 'move_entry', entry_id: entries.value[from]!.id, to }),
})
</script>

<template>
  <MixStates>
    <div class="order">
      <section class="list" aria-label="Running order">
        <div v-if="!entries.length" class="empty">
          <h2>Nothing in this mix yet</h2>
          <p>Add tracks from the library on the right. They play in the order in which they stand here.</p>
        </div>
        <template v-else>
          <div class="head" aria-hidden="true">
            <span /><span /><span>Track</span><span>BPM</span><span>Key lock</span><span>Gain</span
            ><span>Starts</span><span class="profile-head">Tempo</span>
          </div>
          <div v-bind="containerProps" class="box">
            <div class="body" v-bind="wrapperProps">
              <ol class="rows" :aria-label="`${entries.length} tracks in order`">
                <EntryRow
                  v-for="item in list"
                  :key="item.data.id"
                  :entry="item.data"
                  :index="item.index"
                  :count="entries.length"
                  :class="{ held: held === item.index, moving: held !== undefined }"
                  :style="{ height: `${ROW}px`, transform: `translateY(${shiftOf(item.index)}px)` }"
                  @grab="(event) => drag(event, item.index)"
                />
              </ol>
              <TempoProfile :entries="entries" :shown="list.map((i) => i.index)" :row-height="ROW" />
            </div>
          </div>
        </template>
      </section>
      <LibraryShelf class="shelf" />
    </div>
  </MixStates>
</template>

<style scoped>
.order {
  display: grid;
  grid-template-columns: 1fr 300px;
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
  grid-template-columns: 26px 30px minmax(130px, 1fr) 118px 62px 104px 64px 104px;
  gap: 10px;
  padding: 10px 16px 6px 10px;
  border-bottom: 1px solid var(--line-strong);
  color: var(--ink-soft);
  font-size: 12px;
}

.box {
  flex: 1;
  min-height: 0;
}

.body {
  display: grid;
  grid-template-columns: 1fr 114px;
}

.rows {
  min-width: 0;
  margin: 0;
  padding: 0;
  list-style: none;
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
    grid-template-columns: 1fr 232px;
  }

  .head {
    grid-template-columns: 22px 30px minmax(90px, 1fr) 106px 46px 92px 44px 130px;
    gap: 6px;
    padding: 10px 0 6px 6px;
  }

  .profile-head {
    padding-left: 40px;
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

  .head,
  .box {
    min-width: 620px;
  }
}
</style>
