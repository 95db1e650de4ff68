<script setup lang="ts">
import { Button, Popover } from 'ant-design-vue'
import { computed } from 'vue'
import type { Entry } from '../../api/types'
import { useMix } from '../../stores/mix'
import NumberField from '../shared/NumberField.vue'

/** One tempo for the entries that are chosen, or each its own again. */
const props = defineProps<{ entries: Entry[] }>()
const mix = useMix()

const held = computed(() => {
  const tempi = new Set(props.entries.map((e) => e.tempo))
  return tempi.size === 1 ? ([...tempi][0] ?? undefined) : undefined
})
const middle = computed(() => {
  const tempi = props.entries.map((e) => e.home_bpm).sort((a, b) => a - b)
  return Math.round((tempi[Math.floor(tempi.length / 2)] ?? 120) * 10) / 10
})
const hold = (bpm: number | null) =>
  mix.send({ kind: 'hold_tempo', entry_ids: props.entries.map((e) => e.id), bpm })
</script>

<template>
  <Popover trigger="click" placement="bottom">
    <Button size="small" title="Plays the selected tracks at one tempo">Tempo</Button>
    <template #content>
      <div class="hold">
        <NumberField
          :value="held ?? middle"
          :step="1"
          :min="20"
          :max="400"
          label="Tempo of the chosen in BPM"
          :send="hold"
        />
        <span class="faint">BPM</span>
        <Button v-if="!held" size="small" @click="hold(middle)">Use {{ middle }}</Button>
        <Button size="small" :disabled="entries.every((e) => e.tempo === null)" @click="hold(null)"
          >Original tempi</Button
        >
      </div>
    </template>
  </Popover>
</template>

<style scoped>
.hold {
  display: flex;
  align-items: center;
  gap: 6px;
}
</style>
