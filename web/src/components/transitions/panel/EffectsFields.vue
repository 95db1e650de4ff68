<script setup lang="ts">
import { computed } from 'vue'
import type { Effects } from '../../../api/types'
import { useTransition } from '../../../composables/transition/useTransition'
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
const FIELDS: { field: keyof Effects; label: string; about: string; unit: number; step: number; least: number; most: number }[] = [
  { field: 'resonance', label: 'Resonance of the filter, %', about: 'Lifts what lies where it cuts off', unit: 0.01, step: 5, least: 0, most: 100 },
  { field: 'echo_feedback', label: 'Feedback of the echo, %', about: 'How much of each comes back; no echo lasts longer than 8 seconds', unit: 0.01, step: 5, least: 0, most: 90 },
  { field: 'echo_damping', label: 'Damping of the echo, %', about: 'How much duller each is', unit: 0.01, step: 5, least: 0, most: 100 },
  { field: 'reverb_s', label: 'Reverb, in seconds', about: 'Until it has fallen by 60 dB', unit: 1, step: 0.5, least: 0.3, most: 8 },
  { field: 'reverb_colour', label: 'Brightness of the reverb, %', about: 'From a dark room to a bright one', unit: 0.01, step: 5, least: 0, most: 100 },
] // prettier-ignore

const LONGEST_ECHO_S = 8
const BEAT_S = 0.5

/** What the filter, the echo and the reverb are like; the lanes say how much of each there is. */
const { t, pair } = useTransition()
const mix = useMix()

const effects = computed(() => t.value.effects)
const echoes = computed(() =>
  ECHOES.some((e) => e.value === effects.value.echo_beats)
    ? ECHOES
    : [...ECHOES, { value: effects.value.echo_beats, label: `${effects.value.echo_beats} beats` }],
)
/** Whether repeats that could still be heard are left out, at the slowest tempo that is usual. */
const isCutShort = computed(() => {
  const { echo_beats, echo_feedback } = effects.value
  const repeats = echo_feedback > 0 ? 60 / (-20 * Math.log10(echo_feedback)) : 1
  return repeats * echo_beats * BEAT_S > LONGEST_ECHO_S && summary.value.includes('echo')
})
const summary = computed(() => {
  const { outgoing, incoming } = t.value
  const used = (['filter', 'echo', 'reverb'] as const).filter((c) => outgoing[c] ?? incoming[c])
  return used.length ? used.join(', ') : 'none used'
})
const shown = ({ field, unit }: (typeof FIELDS)[number]) =>
  Math.round((effects.value[field] / unit) * 100) / 100

function set(change: Partial<Effects>) {
  return mix.send({ kind: 'set_effects', ...pair.value, ...change })
}
</script>

<template>
  <FoldSection name="effects" title="Effects" :summary="summary">
    <div class="fields full-numbers">
      <label for="echo-beats">Echo every</label>
      <PickField
        id="echo-beats"
        :value="effects.echo_beats"
        :options="echoes"
        @update:value="(n) => n && set({ echo_beats: Number(n) })"
      />
      <template v-for="f in FIELDS" :key="f.field">
        <label :for="f.field" :title="f.about">{{ f.label }}</label>
        <NumberField
          :id="f.field"
          :value="shown(f)"
          :step="f.step"
          :min="f.least"
          :max="f.most"
          :send="(n) => set({ [f.field]: n * f.unit })"
        />
      </template>
    </div>
    <p v-if="isCutShort" class="soft">
      At this spacing the echo ends before it has died away: no echo lasts longer than 8 s.
    </p>
  </FoldSection>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1fr 104px;
  align-items: center;
  gap: 5px 8px;
}
</style>
