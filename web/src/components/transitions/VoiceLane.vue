<script setup lang="ts">
import { computed } from 'vue'
import type { Curve, VoiceSpan } from '../../api/types'
import type { TransitionSide } from '../../time/transitionSide'
import type { SeamViewport } from '../../composables/transition/useSeamView'
import { hueOf } from '../../theme/hues'
import { valueAt } from '../../time/curve'

const ROW = 8
/** A side whose voice is below this, as a fader position, is hardly heard. */
const HEARD = 0.4

/** Where either side of a transition sings: the outgoing above, the incoming below, and where both do at once. */
const { view, outgoing, incoming, start, end, width, voices } = defineProps<{
  view: SeamViewport
  outgoing: TransitionSide
  incoming: TransitionSide
  start: number
  end: number
  width: number
  height: number
  /** How far the voice of either side is turned up over the overlap. */
  voices: { outgoing: Curve; incoming: Curve }
}>()

const within = (spans: VoiceSpan[], from: number, to: number) =>
  spans
    .map((s) => ({ start: Math.max(s.start, from), end: Math.min(s.end, to) }))
    .filter((s) => s.end > s.start)
const inMix = ({ clock, voice }: TransitionSide) =>
  voice.map((s) => ({ start: clock.mixBeat(s.start), end: clock.mixBeat(s.end) }))
const leaving = computed(() => within(inMix(outgoing), -Infinity, end))
const arriving = computed(() => within(inMix(incoming), start, Infinity))
const rows = computed(() => [
  { key: 'out', y: 3, entry: outgoing.entry, spans: leaving.value },
  { key: 'in', y: 3 + ROW + 2, entry: incoming.entry, spans: arriving.value },
])
/** Whether both voices are up in the middle of a span, as the warning has it. */
function bothHeard(span: VoiceSpan) {
  const place = ((span.start + span.end) / 2 - start) / (end - start)
  return [voices.outgoing, voices.incoming].every((curve) => valueAt(curve, place) >= HEARD)
}
const clashes = computed(() =>
  arriving.value.flatMap((s) => within(leaving.value, s.start, s.end)).filter(bothHeard),
)

function box(span: VoiceSpan) {
  const x = view.xOf(span.start)
  return { x, width: Math.max(3, view.xOf(span.end) - x) }
}
</script>

<template>
  <svg class="voice-lane" :width="width" :height="height" role="img" aria-label="Voices of both tracks">
    <rect
      v-for="c in clashes"
      :key="c.start"
      class="clash"
      y="0.5"
      :height="height - 1"
      v-bind="box(c)"
      aria-label="two voices at once"
    >
      <title>Two voices at once</title>
    </rect>
    <template v-for="row in rows" :key="row.key">
      <rect
        v-for="s in row.spans"
        :key="s.start"
        :y="row.y"
        :height="ROW"
        rx="4"
        v-bind="box(s)"
        :fill="hueOf(row.entry.index).strong"
      >
        <title>{{ row.entry.title }}: voice</title>
      </rect>
    </template>
  </svg>
</template>

<style scoped>
.voice-lane {
  display: block;
}

.clash {
  fill: var(--warn);
  fill-opacity: 0.14;
  stroke: var(--warn);
  stroke-dasharray: 3 2;
}
</style>
