<script setup lang="ts">
import { ref, watch } from 'vue'
import { VueDraggable } from 'vue-draggable-plus'
import type { Entry } from '../api/types'
import EntryRow from '../components/EntryRow.vue'
import LibraryShelf from '../components/LibraryShelf.vue'
import MixStates from '../components/MixStates.vue'
import TempoProfile from '../components/TempoProfile.vue'
import { useMix } from '../stores/mix'

const ROW = 82

const mix = useMix()
/** The order as it is drawn: the plan's, or what a drag is making of it. */
const rows = ref<Entry[]>([])
watch(
  () => mix.plan?.entries,
  (entries) => (rows.value = [...(entries ?? [])]),
  { immediate: true },
)

async function dropped(event: { oldIndex?: number; newIndex?: number }) {
  const { oldIndex, newIndex } = event
  if (oldIndex === undefined || newIndex === undefined || oldIndex === newIndex) return
  const moved = mix.plan!.entries[oldIndex]!
  if (!(await mix.send({ kind: 'move_entry', entry_id: moved.id, to: newIndex })))
    rows.value = [...mix.plan!.entries]
}
</script>

<template>
  <MixStates>
    <div class="order">
      <section class="list" aria-label="Running order">
        <div v-if="!rows.length" class="empty">
          <h2>Nothing in this mix yet</h2>
          <p>Add tracks from the library on the right. They play in the order in which they stand here.</p>
        </div>
        <div v-else class="head">
          <span /><span /><span>Track</span><span>BPM</span><span>Key lock</span><span>Gain</span
          ><span>Starts</span><span class="profile-head">Tempo</span>
        </div>
        <div v-if="rows.length" class="body">
          <VueDraggable
            v-model="rows"
            class="rows"
            handle=".grip"
            ghost-class="ghost"
            :animation="150"
            force-fallback
            @end="dropped"
          >
            <EntryRow
              v-for="(entry, i) in rows"
              :key="entry.id"
              :entry="entry"
              :index="i"
              :count="rows.length"
              :style="{ height: `${ROW}px` }"
            />
          </VueDraggable>
          <TempoProfile :entries="rows" :row-height="ROW" />
        </div>
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
  min-width: 0;
  overflow-y: auto;
}

.head {
  position: sticky;
  top: 0;
  z-index: 2;
  display: grid;
  grid-template-columns: 26px 30px minmax(160px, 1fr) 118px 62px 104px 64px 104px;
  gap: 10px;
  padding: 10px 16px 6px 10px;
  background: var(--ground);
  border-bottom: 1px solid var(--line-strong);
  color: var(--ink-soft);
  font-size: 12px;
}

.body {
  display: grid;
  grid-template-columns: 1fr 114px;
}

.shelf {
  border-left: 1px solid var(--line);
}

.empty {
  max-width: 420px;
  margin: 16vh auto;
  text-align: center;
}

:deep(.ghost) {
  opacity: 0.35;
}
</style>
