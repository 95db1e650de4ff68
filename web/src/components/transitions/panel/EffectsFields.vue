<script setup lang="ts">
import { computed } from 'vue'
import type { Effects, Transition } from '../../../api/types'
import { useMix } from '../../../stores/mix'
import FoldSection from '../../shared/FoldSection.vue'
import PickField from '../../shared/PickField.vue'
import NumberField from '../../shared/NumberField.vue'

const ECHOES: { value: number; label: string }[] = [
  { value: 0.25, label: '¼ beat' },
  { value: 1 / 3, label: '⅓ beat' },
  { value: 0.5, label: '½ beat' },
  { value: 0.75, label: '¾ beat' },
  { value: 1, label: '1 beat' },
  { value: 1.5, label: '1½ beats' },
  { value: 2, label: '2 beats' },
  { value: 4, label: '4 beats' },
]
const SHARES: { field: keyof Effects; label: string; about: string; most: number }[] = [
  { field: 'resonance', label: 'Resonance', about: 'Lifts what lies where the filter cuts off', most: 1 },
  { field: 'echo_feedback', label: 'Feedback', about: 'How much of each echo comes back', most: 0.9 },
  { field: 'echo_damping', label: 'Damping', about: 'How much duller each echo is', most: 1 },
  { field: 'reverb_colour', label: 'Brightness', about: 'From a dark room to a bright one', most: 1 },
]

/** What the filter, the echo and the reverb are like; the lanes say how much of each there is. */
const props = defineProps<{ transition: Transition }>()
const mix = useMix()

const effects = computed(() => props.transition.effects)
const echoes = computed(() =>
  ECHOES.some((e) => e.value === effects.value.echo_beats)
    ? ECHOES
    : [...ECHOES, { value: effects.value.echo_beats, label: `${effects.value.echo_beats} beats` }],
)
const summary = computed(() => {
  const { outgoing, incoming } = props.transition
  const used = (['filter', 'echo', 'reverb'] as const).filter((c) => outgoing[c] ?? incoming[c])
  return used.length ? used.join(', ') : 'none used'
})
const byGroup = (group: string) => SHARES.filter((s) => s.field.startsWith(group))

function set(change: Partial<Effects>) {
  const { out_id, in_id } = props.transition
  return mix.send({ kind: 'set_effects', out_id, in_id, ...change })
}
</script>

<template>
  <FoldSection name="effects" title="Effects" :summary="summary">
    <div class="fields">
      <template v-for="s in byGroup('resonance')" :key="s.field">
        <label :for="s.field" :title="s.about">{{ s.label }} of the filter, %</label>
        <NumberField
          :id="s.field"
          :value="Math.round(effects[s.field] * 100)"
          :step="5"
          :min="0"
          :max="s.most * 100"
          :send="(n) => set({ [s.field]: n / 100 })"
        />
      </template>
      <label for="echo-beats">Echo every</label>
      <PickField
        id="echo-beats"
        :value="effects.echo_beats"
        :options="echoes"
        @update:value="(n) => n && set({ echo_beats: Number(n) })"
      />
      <template v-for="s in byGroup('echo')" :key="s.field">
        <label :for="s.field" :title="s.about">{{ s.label }}, %</label>
        <NumberField
          :id="s.field"
          :value="Math.round(effects[s.field] * 100)"
          :step="5"
          :min="0"
          :max="s.most * 100"
          :send="(n) => set({ [s.field]: n / 100 })"
        />
      </template>
      <label for="reverb-s">Reverb, in seconds</label>
      <NumberField
        id="reverb-s"
        :value="effects.reverb_s"
        :step="0.5"
        :min="0.3"
        :max="8"
        :send="(n) => set({ reverb_s: n })"
      />
      <template v-for="s in byGroup('reverb')" :key="s.field">
        <label :for="s.field" :title="s.about">{{ s.label }}, %</label>
        <NumberField
          :id="s.field"
          :value="Math.round(effects[s.field] * 100)"
          :step="5"
          :min="0"
          :max="s.most * 100"
          :send="(n) => set({ [s.field]: n / 100 })"
        />
      </template>
    </div>
  </FoldSection>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1fr 104px;
  align-items: center;
  gap: 5px 8px;
}

.fields :deep(.ant-input-number) {
  width: 100%;
}
</style>
