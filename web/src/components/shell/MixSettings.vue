<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import { computed } from 'vue'
import { useComfort } from '../../composables/page/preferences'
import { useMix } from '../../stores/mix'
import NumberField from '../shared/NumberField.vue'

/** What holds for a mix as a whole: one tempo for all of it, where the bands of its equaliser meet. */
const open = defineModel<boolean>('open', { required: true })
const mix = useMix()

const held = computed(() => {
  const tempi = new Set(mix.plan?.entries.map((e) => e.tempo))
  return tempi.size === 1 ? [...tempi][0] : undefined
})
const middle = computed(() => {
  const tempi = (mix.plan?.entries ?? []).map((e) => e.own_bpm).sort((a, b) => a - b)
  return Math.round(tempi[Math.floor(tempi.length / 2)] ?? 120)
})
const comfort = useComfort()
const setComfort = (percent: number) => {
  comfort.value = percent
  return Promise.resolve(true)
}
const bands = computed(() => mix.mix?.crossovers ?? { low_hz: 250, high_hz: 2500 })
</script>

<template>
  <Modal v-model:open="open" title="Mix settings" :footer="null" :width="420">
    <div class="settings full-numbers">
      <label for="one-tempo">All tracks at one tempo</label>
      <NumberField
        id="one-tempo"
        :value="held ?? middle"
        :step="1"
        :min="20"
        :max="400"
        :send="(bpm) => mix.send({ kind: 'hold_tempo', bpm })"
      />
      <span class="faint">BPM</span>
      <p class="whole soft">
        {{ held ? 'Every track plays at this tempo.' : 'Each track plays at its original tempo.' }}
        <Button v-if="held" type="link" size="small" @click="mix.send({ kind: 'hold_tempo', bpm: null })"
          >Back to original tempi</Button
        >
        <Button v-else type="link" size="small" @click="mix.send({ kind: 'hold_tempo', bpm: middle })"
          >Use {{ middle }} BPM</Button
        >
      </p>
      <label for="comfort" title="Beyond this, a track is hatched in the tempo lane">Comfortable up to</label>
      <NumberField id="comfort" :value="comfort" :step="1" :min="1" :max="50" :send="setComfort" />
      <span class="faint">%</span>
      <label for="low-hz">Low band ends at</label>
      <NumberField
        id="low-hz"
        :value="bands.low_hz"
        :step="10"
        :min="120"
        :max="800"
        :send="(low_hz) => mix.send({ kind: 'set_crossovers', crossovers: { ...bands, low_hz } })"
      />
      <span class="faint">Hz</span>
      <label for="high-hz">High band begins at</label>
      <NumberField
        id="high-hz"
        :value="bands.high_hz"
        :step="100"
        :min="1200"
        :max="8000"
        :send="(high_hz) => mix.send({ kind: 'set_crossovers', crossovers: { ...bands, high_hz } })"
      />
      <span class="faint">Hz</span>
    </div>
  </Modal>
</template>

<style scoped>
.settings {
  display: grid;
  grid-template-columns: 1fr 96px 40px;
  align-items: center;
  gap: 8px;
}

.whole {
  grid-column: 1 / -1;
  margin: 0 0 8px;
}
</style>
