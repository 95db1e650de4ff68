<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { CueMark } from '../../api/types'
import { useCanvas } from '../../composables/page/useCanvas'
import { peaksOf } from '../../pictures/trackPictures'
import { drawSmallWave } from '../../drawing/smallWave'
import type { Hue } from '../../theme/hues'

const STAYS_MS = 120

const props = defineProps<{
  trackId: string
  title: string
  duration: number
  hue: Hue
  /** Seconds of the track at which the playhead is, if it plays. */
  playhead?: number
  /** Moments of cues, and what stands on them. */
  cues?: readonly CueMark[]
}>()
const emit = defineEmits<{ listen: [seconds: number] }>()

const canvas = ref<HTMLCanvasElement>()
const played = computed(() => (props.playhead ?? 0) / props.duration)

/** Whether it stays: while a list is scrolled, rows come and go, and their waveforms are not asked for. */
const stays = ref(false)
const { start } = useTimeoutFn(() => (stays.value = true), STAYS_MS, { immediate: false })
watch(
  () => props.trackId,
  () => {
    stays.value = false
    start()
  },
  { immediate: true },
)

useCanvas(canvas, ({ context, width, height }) => {
  const peaks = peaksOf(props.trackId, 16384, stays.value)
  if (peaks) drawSmallWave(context, width, height, peaks, props.duration, props.hue, played.value)
})

function go(event: MouseEvent) {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const share = event.detail ? (event.clientX - box.left) / box.width : 0
  emit('listen', Math.max(0, share) * props.duration)
}
</script>

<template>
  <button
    class="wave"
    type="button"
    :aria-label="`Listen to ${title}`"
    title="Click to hear it from there"
    @click="go"
  >
    <canvas ref="canvas" />
    <span
      v-for="cue in cues ?? []"
      :key="cue.at_s + cue.plate"
      class="stake"
      :title="cue.plate"
      :style="{ left: `${(cue.at_s / duration) * 100}%` }"
    />
    <span v-if="playhead !== undefined" class="head" :style="{ left: `${played * 100}%` }" />
  </button>
</template>

<style scoped>
.wave {
  position: relative;
  width: 100%;
  height: 34px;
  padding: 0;
  border: 0;
  border-radius: 3px;
  background: none;
  cursor: pointer;
}

.wave:hover {
  background: var(--sunken);
}

canvas {
  display: block;
  width: 100%;
  height: 100%;
}

.stake {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1.5px;
  border-top: 4px solid var(--ink);
  background: var(--ink-soft);
}

.head {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1.5px;
  background: var(--ink);
}
</style>
