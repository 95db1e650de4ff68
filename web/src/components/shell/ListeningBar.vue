<script setup lang="ts">
import { Button, Slider, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import { keyFor, useKeys } from '../../composables/page/useKeys'
import type { Line } from '../../composables/page/useNews'
import { RATE } from '../../sound/player'
import { useListening } from '../../stores/listening'
import { clockTenths } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'
import LevelLight from './LevelLight.vue'
import LoudnessMeter from './LoudnessMeter.vue'

defineProps<{ line: Line }>()
const listening = useListening()

const words: Record<string, string> = {
  idle: '',
  loading: 'loading',
  playing: 'playing',
  paused: 'paused',
  over: 'at the end',
  error: 'cannot be played',
}
const where = computed(() => {
  const piece = listening.piece
  if (!piece) return { now: '–:––.–', end: '' }
  return { now: clockTenths(listening.position / RATE), end: clockTenths(piece.end / RATE) }
})
const share = computed(() => {
  const piece = listening.piece
  return piece ? (listening.position - piece.start) / Math.max(1, piece.end - piece.start) : 0
})

function go(event: PointerEvent) {
  const piece = listening.piece
  if (!piece) return
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  listening.seek(
    Math.round(piece.start + ((event.clientX - box.left) / box.width) * (piece.end - piece.start)),
  )
}

function nudge(seconds: number) {
  const piece = listening.piece
  if (piece)
    listening.seek(Math.min(Math.max(listening.position + seconds * RATE, piece.start), piece.end - 1))
}

useKeys('Listening', [
  { keys: [' '], label: 'Play and pause', run: () => listening.toggle() },
  { keys: ['l'], label: 'Repeat what is played', run: () => listening.setLoop(!listening.loop) },
])
</script>

<template>
  <footer
    class="listening"
    aria-label="Listening"
    :data-state="listening.state"
    :data-frame="listening.position"
  >
    <Tooltip :title="listening.isSounding ? `Pause (${keyFor(' ')})` : `Play (${keyFor(' ')})`">
      <Button
        shape="circle"
        type="primary"
        :disabled="!listening.piece"
        :aria-label="listening.isSounding ? 'Pause' : 'Play'"
        @click="listening.toggle()"
      >
        <GlyphIcon :name="listening.isSounding ? 'pause' : 'play'" />
      </Button>
    </Tooltip>
    <div class="what">
      <div class="label clip">
        {{ listening.piece?.label ?? 'Nothing to hear yet: play a track or a transition' }}
      </div>
      <div class="state soft" role="status" :class="{ 'is-idle': listening.state === 'idle' }">
        <span v-if="listening.state === 'error'" class="bad">{{ listening.error }}</span>
        <template v-else>{{ words[listening.state] }}</template>
      </div>
    </div>
    <div class="times">
      <LevelLight />
      <strong>{{ where.now }}</strong>
      <span v-if="where.end" class="faint"> / {{ where.end }}</span>
    </div>
    <div
      class="track"
      role="slider"
      tabindex="0"
      aria-label="Playing position"
      aria-valuemin="0"
      aria-valuemax="100"
      :aria-valuenow="Math.round(share * 100)"
      :aria-valuetext="where.now"
      @pointerdown="go"
      @keydown.left.prevent="nudge(-5)"
      @keydown.right.prevent="nudge(5)"
    >
      <div class="fill" :style="{ width: `${share * 100}%` }" />
    </div>
    <LoudnessMeter />
    <Tooltip :title="`Repeat what is played (${keyFor('l')})`">
      <Button
        type="text"
        :class="{ 'is-on': listening.loop }"
        aria-label="Loop"
        :aria-pressed="listening.loop"
        @click="listening.setLoop(!listening.loop)"
      >
        <GlyphIcon name="loop" /> Loop
      </Button>
    </Tooltip>
    <div class="level">
      <GlyphIcon name="sound" />
      <Slider
        class="slider"
        :value="Math.round(listening.level * 100)"
        :min="0"
        :max="100"
        :tooltip-open="false"
        aria-label-for-handle="Listening level"
        @change="(v) => listening.setLevel(Number(v) / 100)"
      />
    </div>
    <div v-if="line === 'lost'" class="line" role="alert">
      <GlyphIcon name="flag" /> Fernbrook does not answer. Start it again in its window; this page will catch
      up.
    </div>
  </footer>
</template>

<style scoped>
.listening {
  position: relative;
  display: grid;
  grid-template-columns: auto minmax(150px, 270px) auto 1fr auto auto auto;
  align-items: center;
  gap: 14px;
  height: 58px;
  padding: 0 18px;
  border-top: 1px solid var(--line-strong);
  background: var(--sheet);
}

.label {
  font-weight: 600;
}

.state {
  min-height: 18px;
  font-size: 12px;
  line-height: 18px;
}

.state.is-idle {
  min-height: 0;
}

.what {
  min-width: 0;
}

.times {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 132px;
  white-space: nowrap;
}

.track {
  position: relative;
  height: 22px;
  cursor: pointer;
  border-radius: var(--radius);
}

.track::before {
  content: '';
  position: absolute;
  inset: 9px 0;
  border-radius: 2px;
  background: var(--sunken);
  box-shadow: inset 0 0 0 1px var(--line);
}

.fill {
  position: absolute;
  top: 9px;
  bottom: 9px;
  left: 0;
  min-width: 2px;
  border-radius: 2px;
  background: var(--fern);
}

.level {
  display: flex;
  align-items: center;
  gap: 6px;
  width: 130px;
  color: var(--ink-soft);
}

.slider {
  flex: 1;
}

.is-on {
  background: var(--fern-soft);
  color: var(--fern);
}

.line {
  position: absolute;
  inset: 0;
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 10px;
  background: var(--warn-soft);
  color: var(--warn);
  font-weight: 600;
}

@media (max-width: 860px) {
  .listening {
    grid-template-columns: auto minmax(90px, 1fr) auto minmax(60px, 1fr) auto;
    gap: 8px;
    padding: 0 10px;
  }

  .level {
    display: none;
  }
}
</style>
