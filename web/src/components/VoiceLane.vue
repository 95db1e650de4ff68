<script setup lang="ts">
import { computed } from 'vue'
import type { Entry, VoiceSpan } from '../api/types'
import type { SeamViewport } from '../composables/useSeamView'
import { hueOf } from '../theme/hues'

const ROW = 8

/** Where either side of a transition sings: the outgoing above, the incoming below, and where both do at once. */
const { view, outgoing, incoming, incomingOffset, start, end, width } = defineProps<{
  view: SeamViewport
  outgoing: Entry
  incoming: Entry
  /** The mix beat of the incoming entry's beat 0, as it is being dragged. */
  incomingOffset: number
  start: number
  end: number
  width: number
  height: number
}>()

const inMix = (spans: VoiceSpan[], offset: number, from: number, to: number) =>
  spans
    .map((s) => ({ start: Math.max(s.start + offset, from), end: Math.min(s.end + offset, to) }))
    .filter((s) => s.end > s.start)
const leaving = computed(() => inMix(outgoing.voice, outgoing.offset, -Infinity, end))
const arriving = computed(() => inMix(incoming.voice, incomingOffset, start, Infinity))
const rows = computed(() => [
  { key: 'out', y: 3, hue: hueOf(outgoing.index), spans: leaving.value, name: outgoing.title },
  { key: 'in', y: 3 + ROW + 2, hue: hueOf(incoming.index), spans: arriving.value, name: incoming.title },
])
const clashes = computed(() => arriving.value.flatMap((s) => inMix(leaving.value, 0, s.start, s.end)))

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
        :fill="row.hue.strong"
      >
        <title>{{ row.name }}: voice</title>
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
