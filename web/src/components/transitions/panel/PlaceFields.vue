<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { Law } from '../../../api/types'
import type { TransitionSide } from '../../../time/transitionSide'
import { useNudge } from '../../../composables/transition/useNudge'
import { useTransition } from '../../../composables/transition/useTransition'
import { useMix } from '../../../stores/mix'
import { clockTenths } from '../../../time/format'
import NumberField from '../../shared/NumberField.vue'
import PickField from '../../shared/PickField.vue'

const LAWS: { value: Law; label: string }[] = [
  { value: 'fader', label: 'At even power' },
  { value: 'linear', label: 'In a straight line' },
]

/** Where a transition lies and how long it is, in bars, beats or seconds, by its kind. */
const { planned, outgoing, incoming, placing, t, pair, bar, tempi, isLocked } = useTransition()
const { place } = placing
const mix = useMix()

const mostBars = computed(() => {
  const room = planned.value.room
  return Math.min(room.out_to - place.value.outAt, room.in_to - place.value.inAt) / bar.value
})
const seconds = computed(() => (place.value.beats * 60) / tempi.value.from)

/** Bars as people count them, the first is 1; beats within as fractions. */
const outBar = computed(() => round(outgoing.value.clock.bars.at(place.value.outAt) + 1))
const inBarNumber = computed(() => round(incoming.value.clock.bars.at(place.value.inAt) + 1))

const nudge = useNudge(
  planned,
  computed(() => ({
    trackId: incoming.value.entry.track_id,
    title: incoming.value.entry.title,
    speed: incoming.value.entry.home_bpm / incoming.value.entry.own_bpm,
  })),
  mix.send,
)

function round(value: number) {
  return Math.round(value * 100) / 100
}

function sourceTime({ clock }: TransitionSide, beat: number) {
  const time = clock.audioAt(beat)
  return time === undefined ? '' : clockTenths(time)
}

function put(change: { out_at?: number; in_at?: number; beats?: number; lead?: number; seconds?: number }) {
  return mix.send({ kind: 'place_transition', ...pair.value, ...change })
}
</script>

<template>
  <section class="places numbers full-numbers" aria-label="Place">
    <h3>Place</h3>
    <label for="out-bar">Mix-out at bar</label>
    <NumberField
      id="out-bar"
      :value="outBar"
      :step="1"
      :min="-99"
      :send="(n) => put({ out_at: outgoing.clock.bars.beatOf(n - 1) })"
    />
    <span class="faint">{{ sourceTime(outgoing, place.outAt) }}</span>
    <label for="in-bar">Mix-in at bar</label>
    <NumberField
      id="in-bar"
      :value="inBarNumber"
      :step="1"
      :min="-99"
      :send="(n) => put({ in_at: incoming.clock.bars.beatOf(n - 1) })"
    />
    <span class="faint">{{ sourceTime(incoming, place.inAt) }}</span>
    <template v-if="t.kind === 'blend'">
      <label for="length-bars">Length in bars</label>
      <NumberField
        id="length-bars"
        :value="round(place.beats / bar)"
        :step="1"
        :min="0.25"
        :send="(n) => put({ beats: n * bar })"
      />
      <span class="faint">of {{ Math.floor(mostBars) }}</span>
    </template>
    <template v-else-if="t.kind === 'cut'">
      <label for="lead-bars" title="The outgoing's curves run over so many bars before the cut"
        >Lead in bars</label
      >
      <NumberField
        id="lead-bars"
        :value="round(place.lead / bar)"
        :step="1"
        :min="0"
        :send="(n) => put({ lead: n * bar })"
      />
      <span class="faint">{{ place.lead ? '' : 'none' }}</span>
    </template>
    <template v-else>
      <label for="length-seconds">{{ t.kind === 'fade' ? 'Length in seconds' : 'Pause in seconds' }}</label>
      <NumberField
        id="length-seconds"
        :value="round(seconds)"
        :step="1"
        :min="t.kind === 'fade' ? 0.1 : 0"
        :max="300"
        :send="(n) => put({ seconds: n })"
      />
      <span class="faint">s</span>
    </template>
    <template v-if="t.kind === 'fade'">
      <label for="volume-law">Volume</label>
      <PickField
        id="volume-law"
        class="law"
        :value="t.volume_law"
        :options="LAWS"
        @update:value="
          (law) =>
            law &&
            law !== 'filter' &&
            mix.send({ kind: 'set_volume_law', ...pair, law: law as 'fader' | 'linear' })
        "
      />
    </template>
    <template v-if="t.kind !== 'apart'">
      <label
        for="nudge-ms"
        title="The sound of the incoming, later where above 0. While the click plays: , and ."
        >Fine, in ms</label
      >
      <NumberField id="nudge-ms" :value="nudge.ms.value" :step="1" :min="-100" :max="100" :send="nudge.set" />
      <span class="faint">{{ nudge.ms.value > 0 ? 'later' : nudge.ms.value < 0 ? 'earlier' : '' }}</span>
      <Button
        v-if="isLocked && nudge.ms.value"
        class="whole keep"
        size="small"
        :title="`Move the beat grid of ‘${incoming.entry.title}’ so that it lies as it is heard now, in every mix`"
        @click="nudge.keepInGrid()"
        >Keep it as a slide of its grid</Button
      >
    </template>
    <p v-if="!isLocked" class="whole faint">Each goes at its own tempo.</p>
  </section>
</template>

<style scoped>
.places h3,
.whole {
  grid-column: 1 / -1;
  margin-bottom: 0;
}

.keep {
  justify-self: start;
}

.law {
  grid-column: 2 / -1;
  min-width: 0;
}
</style>
