<script setup lang="ts">
import { computed } from 'vue'
import type { TransitionSide } from '../../time/transitionSide'
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
const { outgoing, incoming } = transition
const { start, end } = transition.placing

const marks = useTempoMarks()
const range = computed(() => {
  const tempi = [
    ...own.value.flatMap((line) => line.points.map(([, tempo]) => tempo)),
    outgoing.value.clock.leadsAt(outgoing.value.clock.entryBeat(start.value)),
    incoming.value.clock.leadsAt(incoming.value.clock.entryBeat(end.value)),
    ...marks.laid.value.filter((m) => m.clock === outgoing.value.entry.clock).map((m) => m.mark.bpm),
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
/** The own tempo of each side over what is seen of it, as pairs of pixels and BPM. */
const own = computed(() =>
  [outgoing.value, incoming.value].map(({ entry, clock: own }, side) => {
    const from = side ? Math.max(0, view.xOf(start.value)) : 0
    const to = side ? width.value : Math.min(width.value, view.xOf(end.value))
    const points: [number, number][] = []
    const step = entry.goes_by === 'own' ? STEP : Math.max(STEP, to - from)
    for (let x = from; x <= to; x += step) points.push([x, own.ownBpm(own.entryBeat(view.beatOf(x)))])
    return { entry, points }
  }),
)
/** Where a side plays farther from its own tempo than is comfortable: stretches of pixels, by side. */
const beyond = computed(() =>
  [outgoing.value.clock, incoming.value.clock].flatMap((own, side) => {
    const from = side ? Math.max(0, view.xOf(start.value)) : 0
    const to = side ? width.value : Math.min(width.value, view.xOf(end.value))
    const spans: { key: string; x: number; width: number; y: number }[] = []
    for (let x = from; x < to; x += STEP) {
      const beat = view.beatOf(x)
      const bend = clock.value.bpmAt(beat) / own.ownBpm(own.entryBeat(beat)) - 1
      if (Math.abs(bend) <= comfort.value / 100) continue
      const last = spans[spans.length - 1]
      if (last && last.x + last.width >= x - 0.5) last.width = x + STEP - last.x
      else spans.push({ key: `${side} ${x}`, x, width: STEP, y: side ? height / 2 : 0 })
    }
    return spans
  }),
)
/** How far a side is bent on a beat of the mix, and its pitch with it. */
const bentBy = ({ entry, clock: own }: TransitionSide, at: number, now: number) => {
  const speed = now / own.ownBpm(own.entryBeat(at))
  if (entry.key_lock) return percent(speed - 1)
  const shift = 12 * Math.log2(speed)
  const semitones =
    Math.abs(shift) < 0.05 ? '' : `, ${shift > 0 ? '+' : '−'}${Math.abs(shift).toFixed(1)} semitones`
  return percent(speed - 1) + semitones
}
/** How far each side is bent at the playhead, or at the middle of the overlap. */
const reading = computed(() => {
  if (start.value === end.value && beat.value === undefined)
    return `${bpm(transition.tempi.value.from)} → ${bpm(transition.tempi.value.to)} BPM`
  const at = beat.value ?? (start.value + end.value) / 2
  const now = clock.value.bpmAt(at)
  const out = at < end.value ? `outgoing ${bentBy(outgoing.value, at, now)}` : ''
  const into = at >= start.value ? `incoming ${bentBy(incoming.value, at, now)}` : ''
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
      <polyline
        v-for="line in own"
        :key="line.entry.id"
        class="own"
        :points="line.points.map(([x, tempo]) => `${x},${yOf(tempo)}`).join(' ')"
        :stroke="hueOf(line.entry.index).strong"
      />
      <polyline :points="path" class="tempo" />
    </svg>
    <TempoPoints
      v-if="isLocked"
      :clock="outgoing.entry.clock"
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
  fill: none;
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
