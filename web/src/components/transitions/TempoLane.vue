<script setup lang="ts">
import { computed } from 'vue'
import type { Entry } from '../../api/types'
import { useTransition } from '../../composables/transition/useTransition'
import { useComfort } from '../../composables/page/preferences'
import { useTempoMarks } from '../../composables/mix/useTempoMarks'
import { hueOf } from '../../theme/hues'
import { bpm, percent } from '../../time/format'
import TempoPoints from '../shared/TempoPoints.vue'

const INSET = 10
/** Pixels between the places at which speeds are looked at. */
const STEP = 4
const comfort = useComfort()

/** The tempo over the seam, each side's own, and the points at which it is set by hand. */
const { height } = defineProps<{ height: number }>()
const transition = useTransition()
const { axis: clock, view, width, isLocked, playBeat: beat } = transition
const outgoing = computed(() => transition.outgoing.value.entry)
const incoming = computed(() => transition.incoming.value.entry)
const { start, end } = transition.placing

const marks = useTempoMarks()
const range = computed(() => {
  const tempi = [
    outgoing.value.own_bpm,
    incoming.value.own_bpm,
    outgoing.value.home_bpm,
    incoming.value.home_bpm,
    ...marks.laid.value.filter((m) => m.clock === outgoing.value.clock).map((m) => m.mark.bpm),
  ]
  const low = Math.min(...tempi)
  const high = Math.max(...tempi)
  const spare = Math.max(0.5, (high - low) * 0.1)
  return { low: low - spare, high: high + spare }
})
const path = computed(() => {
  const edges = [start.value, end.value].flatMap((beat) => [view.xOf(beat - 1e-6), view.xOf(beat)])
  const places = edges.filter((x) => x > 0 && x < width.value)
  for (let x = 0; x <= width.value; x += 3) places.push(x)
  return places
    .sort((a, b) => a - b)
    .map((x) => `${x},${yOf(clock.value.bpmAt(view.beatOf(x)))}`)
    .join(' ')
})
const own = computed(() => [
  { entry: outgoing.value, y: yOf(outgoing.value.own_bpm), from: 0, to: view.xOf(end.value) },
  {
    entry: incoming.value,
    y: yOf(incoming.value.own_bpm),
    from: view.xOf(start.value),
    to: width.value,
  },
])
/** Where a side plays farther from its own tempo than is comfortable: stretches of pixels, by side. */
const beyond = computed(() =>
  [outgoing.value, incoming.value].flatMap((entry, side) => {
    const from = side ? Math.max(0, view.xOf(start.value)) : 0
    const to = side ? width.value : Math.min(width.value, view.xOf(end.value))
    const spans: { key: string; x: number; width: number; y: number }[] = []
    for (let x = from; x < to; x += STEP) {
      if (Math.abs(clock.value.bpmAt(view.beatOf(x)) / entry.own_bpm - 1) <= comfort.value / 100) continue
      const last = spans[spans.length - 1]
      if (last && last.x + last.width >= x - 0.5) last.width = x + STEP - last.x
      else spans.push({ key: `${side} ${x}`, x, width: STEP, y: side ? height / 2 : 0 })
    }
    return spans
  }),
)
const semitones = (entry: Entry, now: number) => {
  if (entry.key_lock) return ''
  const shift = 12 * Math.log2(now / entry.own_bpm)
  return Math.abs(shift) < 0.05 ? '' : `, ${shift > 0 ? '+' : '−'}${Math.abs(shift).toFixed(1)} semitones`
}
/** How far each side is bent at the playhead, or at the middle of the overlap. */
const reading = computed(() => {
  if (start.value === end.value && beat.value === undefined)
    return `${bpm(outgoing.value.home_bpm)} → ${bpm(incoming.value.home_bpm)} BPM`
  const at = beat.value ?? (start.value + end.value) / 2
  const now = clock.value.bpmAt(at)
  const out =
    at < end.value
      ? `outgoing ${percent(now / outgoing.value.own_bpm - 1)}${semitones(outgoing.value, now)}`
      : ''
  const into =
    at >= start.value
      ? `incoming ${percent(now / incoming.value.own_bpm - 1)}${semitones(incoming.value, now)}`
      : ''
  return [`${bpm(now)} BPM`, out, into].filter(Boolean).join(' · ')
})

function bpmOf(y: number) {
  const { low, high } = range.value
  return low + (1 - (y - INSET) / (height - 2 * INSET)) * (high - low)
}

function yOf(tempo: number) {
  const { low, high } = range.value
  return INSET + (1 - (tempo - low) / (high - low)) * (height - 2 * INSET)
}
</script>

<template>
  <div class="lane" :style="{ height: `${height}px` }">
    <svg :width="width" :height="height" role="img" :aria-label="`Tempo: ${reading}`">
      <rect
        :x="view.xOf(start)"
        y="0"
        :width="Math.max(0, view.xOf(end) - view.xOf(start))"
        :height="height"
        class="band"
      />
      <defs>
        <pattern id="beyond" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" x2="0" y1="0" y2="6" class="hatch" />
        </pattern>
      </defs>
      <rect
        v-for="span in beyond"
        :key="span.key"
        class="beyond"
        :x="span.x"
        :y="span.y"
        :width="span.width"
        :height="height / 2"
        fill="url(#beyond)"
      >
        <title>More than {{ comfort }} % from the original tempo</title>
      </rect>
      <line
        v-for="line in own"
        :key="line.entry.id"
        class="own"
        :x1="line.from"
        :x2="line.to"
        :y1="line.y"
        :y2="line.y"
        :stroke="hueOf(line.entry.index).strong"
      />
      <polyline :points="path" class="tempo" />
    </svg>
    <TempoPoints
      v-if="isLocked"
      :clock="outgoing.clock"
      :width="width"
      :height="height"
      :x-of="view.xOf"
      :beat-of="view.beatOf"
      :y-of="yOf"
      :bpm-of="bpmOf"
    />
    <span class="reading">{{ reading }}</span>
  </div>
</template>

<style scoped>
.lane {
  position: relative;
}

svg {
  display: block;
}

.band {
  fill: var(--sheet);
}

.own {
  stroke-width: 1.5;
  stroke-dasharray: 2 4;
}

.hatch {
  stroke: var(--warn);
  stroke-width: 2;
  opacity: 0.45;
}

.tempo {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.75;
}

.reading {
  bottom: 3px;
  pointer-events: none;
}
</style>
