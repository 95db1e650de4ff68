<script setup lang="ts">
import type { TempoPolicy, TempoWay } from '../../../api/types'
import { useTransition } from '../../../composables/transition/useTransition'
import { useMix } from '../../../stores/mix'
import { bpm } from '../../../time/format'
import NumberField from '../../shared/NumberField.vue'
import PickField from '../../shared/PickField.vue'

const POLICIES: { value: TempoPolicy; label: string }[] = [
  { value: 'ramp', label: 'Ramp across the overlap' },
  { value: 'steps', label: 'In steps' },
  { value: 'switch_at_start', label: 'Switch at its start' },
  { value: 'switch_at_end', label: 'Switch at its end' },
]

/** How the tempo gets from that of the one to that of the other. */
const { tempi, t, pair, bar } = useTransition()
const mix = useMix()

function set(change: Partial<TempoWay> & { tempo?: TempoPolicy }) {
  return mix.send({ kind: 'set_tempo_policy', ...pair.value, ...change })
}
</script>

<template>
  <section>
    <h3><label for="tempo-policy">Tempo</label></h3>
    <PickField
      id="tempo-policy"
      class="wide"
      :value="t.tempo"
      :options="POLICIES"
      @update:value="(tempo) => tempo && set({ tempo })"
    />
    <p class="soft ramp">{{ bpm(tempi.from) }} → {{ bpm(tempi.to) }} BPM</p>
    <div v-if="t.tempo === 'ramp' || t.tempo === 'steps'" class="way numbers full-numbers">
      <template v-if="t.tempo === 'steps'">
        <label for="step-bpm">Steps of</label>
        <NumberField
          id="step-bpm"
          :value="t.way.step_bpm"
          :step="1"
          :min="0.1"
          :max="50"
          :send="(n) => set({ step_bpm: n })"
        />
        <span class="faint">BPM</span>
        <label for="step-bars">One every</label>
        <NumberField
          id="step-bars"
          :value="t.way.step_bars"
          :step="1"
          :min="1"
          :max="64"
          :send="(n) => set({ step_bars: Math.round(n) })"
        />
        <span class="faint">bars</span>
      </template>
      <label for="way-before">Begin earlier by</label>
      <NumberField
        id="way-before"
        :value="t.way.before / bar"
        :step="4"
        :min="0"
        :max="256"
        :send="(n) => set({ before: n * bar })"
      />
      <span class="faint">bars</span>
      <template v-if="t.tempo === 'ramp'">
        <label for="way-after">End later by</label>
        <NumberField
          id="way-after"
          :value="t.way.after / bar"
          :step="4"
          :min="0"
          :max="256"
          :send="(n) => set({ after: n * bar })"
        />
        <span class="faint">bars</span>
      </template>
    </div>
  </section>
</template>

<style scoped>
h3 {
  margin-bottom: 5px;
}

.wide {
  width: 100%;
}

.ramp {
  margin: 4px 0 0;
}

.way {
  margin-top: 6px;
}
</style>
