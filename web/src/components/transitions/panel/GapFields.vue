<script setup lang="ts">
import { Checkbox } from 'ant-design-vue'
import { computed } from 'vue'
import type { Gap } from '../../../api/types'
import { useTransition } from '../../../composables/transition/useTransition'
import { useMix } from '../../../stores/mix'
import FoldSection from '../../shared/FoldSection.vue'
import PickField from '../../shared/PickField.vue'

const NONE = 0
const BEATS = [NONE, 0.5, 1, 2, 3, 4, 8].map((value) => ({
  value,
  label: value === NONE ? 'none' : value === 0.5 ? '½ beat' : `${value} ${value === 1 ? 'beat' : 'beats'}`,
}))
const BEFORE: { value: Gap['before']; label: string }[] = [
  { value: 'hand_over', label: 'before the hand-over' },
  { value: 'end', label: 'before the end' },
]
const SIDES: { value: Gap['side']; label: string }[] = [
  { value: 'outgoing', label: 'of the outgoing' },
  { value: 'incoming', label: 'of the incoming' },
  { value: 'both', label: 'of both' },
]
/** The last beats before the hand-over or the end, left out of one side or of both. */
const { t, pair } = useTransition()
const mix = useMix()

const gap = computed(() => t.value.gap)
const summary = computed(() =>
  gap.value ? (BEATS.find((b) => b.value === gap.value?.beats)?.label ?? `${gap.value.beats} beats`) : 'none',
)

function set(change: Partial<Gap>) {
  return mix.send({ kind: 'set_gap', ...pair.value, ...change })
}
</script>

<template>
  <FoldSection name="gap" title="Gap" :summary="summary">
    <div class="fields">
      <PickField
        label="Beats left out"
        :value="gap?.beats ?? NONE"
        :options="BEATS"
        @update:value="(n) => set({ beats: Number(n) })"
      />
      <template v-if="gap">
        <PickField
          label="Whose beats"
          :value="gap.side"
          :options="SIDES"
          @update:value="(side) => side && set({ side })"
        />
        <PickField
          v-if="t.kind === 'blend'"
          label="Before what"
          :value="gap.before"
          :options="BEFORE"
          @update:value="(before) => before && set({ before })"
        />
        <Checkbox :checked="gap.rings" @change="(e) => set({ rings: e.target.checked })"
          >echo and reverb ring on through it</Checkbox
        >
      </template>
    </div>
  </FoldSection>
</template>

<style scoped>
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 5px 8px;
}
</style>
