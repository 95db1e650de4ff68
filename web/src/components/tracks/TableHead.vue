<script setup lang="ts">
import type { TrackTableState } from '../../composables/library/useTrackTable'
import { UNSORTED, type ColumnSpec } from '../../library/columns'

/** The names of the columns; a click sorts by one, with shift within what is sorted already. */
const props = defineProps<{ table: TrackTableState }>()
const emit = defineEmits<{ sort: [] }>()
const { columns, layout, sortOf } = props.table

function sortBy(column: ColumnSpec, event: MouseEvent) {
  props.table.sortBy(column, event.shiftKey)
  emit('sort')
}
</script>

<template>
  <div class="head" role="row" aria-rowindex="1" :style="layout">
    <span
      v-for="c in columns"
      :key="c.key"
      :class="{ right: c.right }"
      role="columnheader"
      :aria-sort="sortOf(c.key) ? (sortOf(c.key)!.falls ? 'descending' : 'ascending') : undefined"
    >
      <button
        type="button"
        :title="UNSORTED.has(c.key) ? '' : 'Sort; with shift, within what is sorted already'"
        @click="(e) => sortBy(c, e)"
      >
        {{ c.label
        }}<span v-if="sortOf(c.key)" class="arrow"
          >{{ sortOf(c.key)!.falls ? '↓' : '↑'
          }}{{ props.table.sort.value.length > 1 ? sortOf(c.key)!.place : '' }}</span
        >
      </button>
    </span>
    <span class="waveform" role="columnheader">Waveform</span>
    <span role="columnheader"><span class="visually-hidden">More</span></span>
  </div>
</template>

<style scoped>
.head {
  height: 28px;
  border-bottom: 1px solid var(--line-strong);
  color: var(--ink-soft);
  font-size: 12px;
}

/* All of the head sorts, not the word alone. */
.head button {
  display: block;
  width: 100%;
  height: 28px;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: inherit;
  white-space: nowrap;
  cursor: pointer;
}

.head button:hover,
.head [aria-sort] button {
  color: var(--ink);
}

.head .right {
  text-align: right;
}

.arrow {
  padding-left: 3px;
}

@media (max-width: 1180px) {
  .head {
    min-width: 860px;
  }
}
</style>
