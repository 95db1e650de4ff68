<script setup lang="ts">
import { useRafFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import { useListening } from '../../stores/listening'

/** dB below full scale at which the light goes out. */
const FLOOR = -48

const listening = useListening()
const peak = ref(0)
const { pause, resume } = useRafFn(() => (peak.value = listening.peak()), { immediate: false })

watch(
  () => listening.isSounding,
  (on) => {
    if (on) return resume()
    pause()
    peak.value = 0
  },
)

function height() {
  return peak.value > 0 ? Math.max(0, 1 - (20 * Math.log10(peak.value)) / FLOOR) : 0
}
</script>

<template>
  <span class="light" title="What goes to the speakers" :data-peak="peak.toFixed(4)">
    <span class="fill" :style="{ transform: `scaleY(${height()})` }" />
  </span>
</template>

<style scoped>
.light {
  flex: none;
  width: 5px;
  height: 24px;
  overflow: hidden;
  border-radius: 2px;
  background: var(--sunken);
  box-shadow: inset 0 0 0 1px var(--line);
}

.fill {
  display: block;
  height: 100%;
  background: var(--fern);
  transform-origin: bottom;
}
</style>
