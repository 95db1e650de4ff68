<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { TempoMark } from '../../../api/types'
import { useTempoMarks } from '../../../composables/mix/useTempoMarks'
import { useMix } from '../../../stores/mix'
import { barBeat } from '../../../time/format'
import FoldSection from '../../shared/FoldSection.vue'
import NumberField from '../../shared/NumberField.vue'
import { BarLines } from '../../../time/barLines'
import PickField from '../../shared/PickField.vue'

const WAYS: { value: TempoMark['onward']; label: string }[] = [
  { value: 'straight', label: 'straight' },
  { value: 'smooth', label: 'smooth' },
  { value: 'step', label: 'step' },
]

/** The tempi that were set by hand in the whole mix, by number; `at` is the beat at which one more is set. */
const props = defineProps<{ at: number }>()
const mix = useMix()
const marks = useTempoMarks()

const rows = computed(() =>
  marks.laid.value.map(({ mark }, index) => {
    const entry = mix.plan?.entries.find((e) => e.id === mark.entry_id)
    return {
      mark,
      index,
      title: entry?.title ?? '',
      bar: entry ? barBeat(mark.beat, BarLines.ofEntry(entry)) : '',
    }
  }),
)
const summary = computed(() => (rows.value.length ? `${rows.value.length} points` : 'none'))
const add = () => marks.add(props.at, mix.clock?.bpmAt(props.at) ?? 120)
</script>

<template>
  <FoldSection name="tempo-points" title="Tempo by hand" :summary="summary">
    <p class="soft about">Between the first point and the last they are the tempo of the mix.</p>
    <ol v-if="rows.length" class="rows">
      <li v-for="row in rows" :key="row.index">
        <span class="where clip" :title="row.title">{{ row.title }}, bar {{ row.bar }}</span>
        <NumberField
          :value="row.mark.bpm"
          :step="0.5"
          :min="20"
          :max="400"
          :label="`Tempo point ${row.index + 1} in BPM`"
          :send="(bpm) => marks.change(row.index, { bpm })"
        />
        <PickField
          :value="row.mark.onward"
          :label="`On from tempo point ${row.index + 1}`"
          :options="WAYS"
          @update:value="(onward) => onward && marks.change(row.index, { onward })"
        />
        <Button
          size="small"
          type="text"
          :aria-label="`Remove tempo point ${row.index + 1}`"
          @click="marks.remove(row.index)"
          >×</Button
        >
      </li>
    </ol>
    <span class="acts">
      <Button size="small" title="At the playhead, else in the middle of the overlap" @click="add"
        >Set a point</Button
      >
      <Button v-if="rows.length" size="small" @click="mix.send({ kind: 'set_tempo_marks', marks: [] })"
        >Take all away</Button
      >
    </span>
  </FoldSection>
</template>

<style scoped>
.about {
  margin: 0 0 6px;
  font-size: 12px;
}

.rows {
  margin: 0 0 6px;
  padding: 0;
}

.rows li {
  display: grid;
  grid-template-columns: 92px 1fr 24px;
  gap: 3px 5px;
  padding: 4px 0;
  border-top: 1px solid var(--line);
}

.where {
  grid-column: 1 / -1;
  font-size: 12px;
}

.acts {
  display: flex;
  gap: 5px;
}
</style>
