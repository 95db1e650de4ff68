<script setup lang="ts">
import { Segmented } from 'ant-design-vue'
import { computed, ref, toRef } from 'vue'
import type { Entry, Fold } from '../../api/types'
import { useFolds } from '../../composables/edits/useFolds'
import { useTrials } from '../../composables/mix/useTrials'
import type { BarLines } from '../../time/barLines'
import { useMix } from '../../stores/mix'
import FoldSection from '../shared/FoldSection.vue'
import HearOrUse from '../shared/HearOrUse.vue'
import PickField from '../shared/PickField.vue'

const WAYS = [
  { value: 'shorter', label: 'Shorter' },
  { value: 'longer', label: 'Longer' },
]
const LENGTHS = [2, 4, 8, 16, 32].map((value) => ({ value, label: `by ${value} bars` }))
/** Beats that are heard before and after a join. */
const AROUND_BEATS = 12

/** Where the entry can be made shorter or longer so that it is least noticed: heard first, then taken. */
const props = defineProps<{ entry: Entry; lines: BarLines }>()
const emit = defineEmits<{ point: [fold: Fold | undefined] }>()
const mix = useMix()
const trials = useTrials()
const way = ref('shorter')
const bars = ref(8)
const { data: folds, error } = useFolds(
  toRef(props, 'entry'),
  bars,
  computed(() => way.value === 'longer'),
)

/** The join lies where what follows the cut begins, or where the repeat does. */
function hear(fold: Fold) {
  const join = way.value === 'longer' ? fold.start_bar : fold.end_bar
  void trials.hearEntry(fold.command, props.entry.id, props.lines.beatOf(join), AROUND_BEATS)
}
</script>

<template>
  <FoldSection
    name="folds"
    title="By phrases"
    :summary="folds?.length ? `${folds.length} places` : 'no place'"
    starts-open
  >
    <div class="how">
      <Segmented v-model:value="way" size="small" :options="WAYS" aria-label="Shorter or longer" />
      <PickField v-model:value="bars" label="By how many bars" :options="LENGTHS" />
    </div>
    <p v-if="error" class="soft">{{ error.message }}</p>
    <ol v-else-if="folds?.length" class="folds" aria-label="Joins that are hardly heard">
      <li
        v-for="(fold, i) in folds"
        :key="`${fold.start_bar} ${fold.end_bar}`"
        @pointerenter="emit('point', fold)"
        @pointerleave="emit('point', undefined)"
      >
        <span class="words"
          ><strong>Bars {{ fold.start_bar + 1 }}–{{ fold.end_bar }}</strong>
          <span class="soft"> both sides {{ Math.round(fold.likeness * 100) }} % alike</span></span
        >
        <HearOrUse :name="`place ${i + 1}`" @hear="hear(fold)" @use="mix.send(fold.command)" />
      </li>
    </ol>
    <p v-else class="soft">No stretch of this length fits between the two transitions. Try fewer bars.</p>
  </FoldSection>
</template>

<style scoped>
.how {
  display: flex;
  gap: 6px;
  margin-bottom: 6px;
}

li {
  display: grid;
  grid-template-columns: 1fr max-content max-content;
  align-items: center;
  gap: 5px;
  padding: 4px 0;
  border-top: 1px solid var(--line);
}

.words {
  font-size: 12.5px;
  line-height: 1.3;
}
</style>
