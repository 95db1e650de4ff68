<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { Cue, Loop, Offsets, SuggestedCue, Section, VoiceSpan } from '../../api/types'
import { useCanvas } from '../../composables/page/useCanvas'
import { startDrag } from '../../composables/page/useDrag'
import { peaksOf } from '../../pictures/trackPictures'
import { drawDrift, FULL_MS } from '../../drawing/drift'
import { drawEnergy } from '../../drawing/energy'
import { drawSmallWave } from '../../drawing/smallWave'
import { hueOf } from '../../theme/hues'
import { useTokens } from '../../theme/tokens'
import { stakesOf, STAND_IN } from '../../time/cues'
import type { BeatGrid } from '../../time/grid'
import CuePlates from '../cues/CuePlates.vue'
import LoopBands from '../cues/LoopBands.vue'
import TempoLine from './TempoLine.vue'
import SectionsRow from './SectionsRow.vue'
import VoiceRow from './VoiceRow.vue'

const props = defineProps<{
  trackId: string
  duration: number
  beats: BeatGrid | undefined
  /** The grid that bars of energy are counted by, whatever is being tried. */
  counted: BeatGrid | undefined
  sections: Section[]
  voice: VoiceSpan[]
  changeSections: (sections: Section[], why: string) => Promise<boolean>
  changeVoice: (spans: VoiceSpan[], why: string) => Promise<boolean>
  energy: number[]
  firstBar: number
  offsets: Offsets | undefined
  cues: Cue[]
  suggested: SuggestedCue[]
  loops: Loop[]
  chosenCue: string | undefined
  cursor: number
  playhead: number | undefined
}>()
const emit = defineEmits<{
  place: [seconds: number]
  analysed: [part: 'sections' | 'voice']
  cue: [cue: Cue]
  accept: [cue: Cue]
}>()

const tokens = useTokens()
const hue = hueOf(0)
const wave = useTemplateRef<HTMLCanvasElement>('wave')
const steps = useTemplateRef<HTMLCanvasElement>('steps')
const strip = useTemplateRef<HTMLCanvasElement>('strip')

const { width, height } = useCanvas(wave, ({ context, width: w, height: h }) => {
  const peaks = peaksOf(props.trackId, 4096)
  if (peaks) drawSmallWave(context, w, h, peaks, props.duration, hue, 0)
})
useCanvas(steps, ({ context, width: w, height }) => {
  if (props.counted)
    drawEnergy(context, w, height, props.energy, props.firstBar, props.counted, props.duration, tokens.value)
})
useCanvas(strip, ({ context, width: w, height }) => {
  if (props.offsets && props.beats)
    drawDrift(context, w, height, props.offsets, props.beats, props.duration, tokens.value)
})

const xOf = (seconds: number) => (seconds / props.duration) * width.value
const beatX = (beat: number) => xOf((props.beats ?? STAND_IN).timeAt(beat))
const stakes = computed(() => stakesOf(props.cues, props.suggested, (at) => [beatX(at)]))

const share = (seconds: number) => Math.min(1, Math.max(0, seconds / props.duration))

function place(event: PointerEvent) {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const go = (at: PointerEvent) =>
    emit('place', share(((at.clientX - box.left) / box.width) * props.duration) * props.duration)
  startDrag(event, { move: (_, __, at) => go(at), drop: go, click: go })
}
</script>

<template>
  <div class="overview">
    <template v-if="beats">
      <SectionsRow
        :sections="sections"
        :beats="beats"
        :duration="duration"
        :cursor="cursor"
        :change="changeSections"
        @analysed="emit('analysed', 'sections')"
      />
      <VoiceRow
        :spans="voice"
        :beats="beats"
        :duration="duration"
        :cursor="cursor"
        :change="changeVoice"
        @analysed="emit('analysed', 'voice')"
      />
    </template>
    <div class="over" @pointerdown="place">
      <canvas ref="wave" class="wave" />
      <TempoLine v-if="beats" :beats="beats" :duration="duration" :width="width" :height="height" />
      <div class="marks">
        <LoopBands :loops="loops" :x-of="beatX" />
        <CuePlates
          :stakes="stakes"
          :width="width"
          :chosen="chosenCue"
          @choose="(cue) => emit('cue', cue)"
          @accept="(cue) => emit('accept', cue)"
        />
      </div>
      <div class="energy" role="img" aria-label="Energy of each bar">
        <canvas ref="steps" />
        <span class="scale top">energy</span>
      </div>
      <div class="drift" role="img" aria-label="Drift strip: how far the onsets lie from the grid">
        <canvas ref="strip" />
        <span class="scale top">early</span>
        <span class="scale bottom">late {{ FULL_MS }} ms</span>
      </div>
      <div class="cursor" :style="{ left: `${share(cursor) * 100}%` }" />
      <div v-if="playhead !== undefined" class="playhead" :style="{ left: `${share(playhead) * 100}%` }" />
    </div>
  </div>
</template>

<style scoped>
.overview {
  padding: 0 14px;
}

.over {
  position: relative;
  cursor: pointer;
  touch-action: none;
}

.wave {
  display: block;
  width: 100%;
  height: 52px;
}

.marks {
  position: absolute;
  top: 0;
  right: 0;
  left: 0;
  height: 52px;
  pointer-events: none;
}

.energy,
.drift {
  position: relative;
  border-top: 1px solid var(--line);
}

.energy {
  height: 18px;
}

.drift {
  height: 44px;
  background: var(--sheet);
}

.energy canvas,
.drift canvas {
  display: block;
  width: 100%;
  height: 100%;
}

.scale {
  position: absolute;
  right: 4px;
  padding: 0 2px;
  background: color-mix(in srgb, var(--sheet) 80%, transparent);
  color: var(--ink-soft);
  font-size: 11px;
  line-height: 13px;
  pointer-events: none;
}

.scale.top {
  top: 2px;
}

.scale.bottom {
  bottom: 2px;
}
</style>
