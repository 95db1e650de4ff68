<script setup lang="ts">
import { computed } from 'vue'
import type { FacetRead, MarkFacet } from '../../api/types'

/** What a track has of each part beside what it would have, and which of them are to be taken. */
const props = defineProps<{ parts: FacetRead[]; there: string; onlyShown?: boolean }>()
const chosen = defineModel<MarkFacet[]>('chosen', { default: () => [] })

const SHOWN = 8
const NAMES: Record<MarkFacet, string> = {
  grid: 'Grid',
  sections: 'Sections',
  voice: 'Voice',
  cues: 'Cues',
  loops: 'Loops',
  key: 'Key',
}

/** Of two lists the lines that are not in both, so that one sees what changes. */
const rows = computed(() =>
  props.parts.map((part) => {
    const [here, there] = [new Set(part.here), new Set(part.there)]
    return {
      ...part,
      gone: part.here.filter((x) => !there.has(x)),
      new: part.there.filter((x) => !here.has(x)),
      same: part.here.filter((x) => there.has(x)).length,
    }
  }),
)
const cut = (lines: string[]) => [
  ...lines.slice(0, SHOWN),
  ...(lines.length > SHOWN ? [`and ${lines.length - SHOWN} more`] : []),
]
</script>

<template>
  <table class="compare">
    <thead>
      <tr>
        <th>{{ onlyShown ? '' : 'Take' }}</th>
        <th>Here</th>
        <th>{{ there }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.facet" :class="{ same: !row.differs }">
        <th scope="row">
          <template v-if="onlyShown">{{ NAMES[row.facet] }}</template>
          <label v-else
            ><input v-model="chosen" type="checkbox" :value="row.facet" :disabled="!row.differs" />
            {{ NAMES[row.facet] }}</label
          >
        </th>
        <template v-if="row.differs">
          <td>
            <div v-for="line in cut(row.gone)" :key="line">{{ line }}</div>
            <div v-if="!row.gone.length" class="soft">{{ row.same ? '' : 'none' }}</div>
            <div v-if="row.same" class="soft">{{ row.same }} in both</div>
          </td>
          <td>
            <div v-for="line in cut(row.new)" :key="line" class="new">{{ line }}</div>
            <div v-if="!row.new.length" class="soft">none</div>
          </td>
        </template>
        <td v-else colspan="2" class="soft">the same on both sides</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.compare {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}

.compare th,
.compare td {
  padding: 6px 8px;
  border-bottom: 1px solid var(--line);
  text-align: left;
  vertical-align: top;
  font-weight: 400;
}

.compare thead th {
  color: var(--ink-soft);
}

.compare th:first-child {
  width: 104px;
}

.new {
  font-weight: 600;
}
</style>
