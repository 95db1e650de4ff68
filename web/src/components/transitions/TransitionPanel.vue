<script setup lang="ts">
import { Button, Switch, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import type { HandOver, PlannedTransition, Side, TempoPolicy } from '../../api/types'
import type { PickedPoint } from '../../time/curveEdit'
import type { Place } from '../../composables/usePlacing'
import type { TransitionSide } from '../../composables/useSides'
import { useSnags } from '../../composables/useSnags'
import { useMix } from '../../stores/mix'
import { hueOf } from '../../theme/hues'
import { bpm, clockTenths, decibels, percent } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'
import NumberField from '../shared/NumberField.vue'
import PickField from '../shared/PickField.vue'
import PointFields from './PointFields.vue'

const HAND_OVERS: { name: HandOver; label: string; about: string }[] = [
  { name: 'even_blend', label: 'Even blend', about: 'One fades out while the other fades in, at even power' },
  { name: 'bass', label: 'Bass hand-over', about: 'The bass changes hands on the middle phrase line' },
  { name: 'clean_cut', label: 'Clean cut', about: 'A switch on the beat' },
]
const POLICIES: { value: TempoPolicy; label: string }[] = [
  { value: 'ramp', label: 'Ramp across the overlap' },
  { value: 'switch_at_start', label: 'Switch at its start' },
  { value: 'switch_at_end', label: 'Switch at its end' },
]

const props = defineProps<{
  planned: PlannedTransition
  outgoing: TransitionSide
  incoming: TransitionSide
  place: Place
  point?: PickedPoint
}>()
const mix = useMix()

const t = computed(() => props.planned.transition)
const pair = computed(() => ({ out_id: t.value.out_id, in_id: t.value.in_id }))
const bar = computed(() => props.outgoing.clock.bar)
const inBar = computed(() => props.incoming.clock.bar)
const isCut = computed(() => t.value.kind === 'cut')
const all = useSnags()
const snags = computed(() => all.value.filter((s) => s.transition === props.planned.index))
const mostBars = computed(() => {
  const room = props.planned.room
  return Math.min(room.out_to - props.place.outAt, room.in_to - props.place.inAt) / bar.value
})

/** Bars as people count them, the first is 1; beats within as fractions. */
const outBar = computed(() => round(props.place.outAt / bar.value + 1))
const inBarNumber = computed(() => round(props.place.inAt / inBar.value + 1))
const lengthBars = computed(() => round(props.place.beats / bar.value))

const outTime = computed(() => sourceTime(props.outgoing, props.place.outAt))
const inTime = computed(() => sourceTime(props.incoming, props.place.inAt))
const sides = computed(() => [
  { entry: props.outgoing.entry, word: 'Outgoing', bend: bend('outgoing') },
  { entry: props.incoming.entry, word: 'Incoming', bend: bend('incoming') },
])

function round(value: number) {
  return Math.round(value * 100) / 100
}

function sourceTime({ clock }: TransitionSide, beat: number) {
  const time = clock.audioAt(beat)
  return time === undefined ? '' : clockTenths(time)
}

/** How far an entry is bent at both edges of the overlap; at a cut the one has left when the other arrives. */
function bend(side: Side) {
  const clock = mix.clock
  if (!clock) return ''
  const at = (beat: number) => percent(clock.bpmAt(beat) / props[side].entry.own_bpm - 1)
  const { start_beat: from, end_beat: to } = props.planned
  if (isCut.value) return at(side === 'outgoing' ? from - 1e-6 : from)
  const start = at(from)
  const end = at(to - 1e-6)
  return start === end ? start : `${start} to ${end}`
}

function put(change: { out_at?: number; in_at?: number; beats?: number }) {
  return mix.send({ kind: 'place_transition', ...pair.value, ...change })
}
</script>

<template>
  <aside class="panel" aria-label="Transition">
    <section>
      <h3>Start from</h3>
      <div class="hand-overs">
        <Tooltip v-for="h in HAND_OVERS" :key="h.name" :title="h.about" placement="left">
          <Button size="small" @click="mix.send({ kind: 'apply_hand_over', ...pair, hand_over: h.name })">{{
            h.label
          }}</Button>
        </Tooltip>
      </div>
    </section>

    <section class="places">
      <h3>Place</h3>
      <label for="out-bar">Mix-out at bar</label>
      <NumberField
        id="out-bar"
        :value="outBar"
        :step="1"
        :min="-99"
        :send="(n) => put({ out_at: (n - 1) * bar })"
      />
      <span class="faint">{{ outTime }}</span>
      <label for="in-bar">Mix-in at bar</label>
      <NumberField
        id="in-bar"
        :value="inBarNumber"
        :step="1"
        :min="-99"
        :send="(n) => put({ in_at: (n - 1) * inBar })"
      />
      <span class="faint">{{ inTime }}</span>
      <template v-if="!isCut">
        <label for="length-bars">Length in bars</label>
        <NumberField
          id="length-bars"
          :value="lengthBars"
          :step="1"
          :min="0.25"
          :send="(n) => put({ beats: n * bar })"
        />
        <span class="faint">of {{ Math.floor(mostBars) }}</span>
      </template>
      <p v-else class="whole soft">A clean cut: no overlap.</p>
    </section>

    <PointFields v-if="point && !isCut" :transition="t" :point="point" :bar="bar" />

    <section>
      <h3><label for="tempo-policy">Tempo</label></h3>
      <PickField
        id="tempo-policy"
        class="wide"
        :value="t.tempo"
        :options="POLICIES"
        @update:value="(tempo) => tempo && mix.send({ kind: 'set_tempo_policy', ...pair, tempo })"
      />
      <p class="soft ramp">{{ bpm(outgoing.entry.home_bpm) }} → {{ bpm(incoming.entry.home_bpm) }} BPM</p>
    </section>

    <section
      v-for="side in sides"
      :key="side.word"
      class="side"
      :style="{ borderColor: hueOf(side.entry.index).strong }"
    >
      <div class="side-head">
        <strong class="clip">{{ side.entry.title }}</strong>
        <span class="faint">{{ side.word.toLowerCase() }}</span>
      </div>
      <div class="row">
        <label :for="`lock-${side.word}`">Key lock</label>
        <Switch
          :id="`lock-${side.word}`"
          size="small"
          :checked="side.entry.key_lock"
          :aria-label="`${side.word} key lock`"
          @change="(on) => mix.send({ kind: 'set_key_lock', entry_id: side.entry.id, key_lock: Boolean(on) })"
        />
        <span class="faint">speed {{ side.bend }}</span>
      </div>
      <div class="row">
        <label :for="`gain-${side.word}`">Gain</label>
        <NumberField
          :id="`gain-${side.word}`"
          class="gain"
          :value="Math.round(side.entry.gain_db * 10) / 10"
          :step="0.5"
          :min="-40"
          :max="24"
          :label="`${side.word} gain in dB`"
          :send="(n) => mix.send({ kind: 'set_gain', entry_id: side.entry.id, gain_db: n })"
        />
        <Button
          v-if="side.entry.gain_by_hand"
          type="link"
          size="small"
          @click="mix.send({ kind: 'set_gain', entry_id: side.entry.id, gain_db: null })"
        >
          match level
        </Button>
        <span v-else class="faint">dB</span>
      </div>
      <div v-if="!side.entry.gain_by_hand" class="why faint">{{ side.entry.gain_why }}</div>
      <div v-if="side.entry.over_db >= 0.1" class="why faint">
        the limiter takes {{ side.entry.over_db.toFixed(1) }} dB at its peaks
      </div>
    </section>

    <section v-if="snags.length" class="snags" role="status">
      <p v-for="snag in snags" :key="snag.message">{{ snag.message }}</p>
    </section>

    <Button
      v-if="planned.shaped"
      class="reset"
      size="small"
      title="Forget what was placed and shaped by hand"
      @click="mix.send({ kind: 'reset_transition', ...pair })"
    >
      <GlyphIcon name="undo" :size="13" /> As if untouched
    </Button>
    <p v-else class="faint untouched">
      Placed by itself on the last and the first phrases. Levels {{ decibels(outgoing.entry.gain_db) }} and
      {{ decibels(incoming.entry.gain_db) }}.
    </p>
  </aside>
</template>

<style scoped>
.panel {
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding: 12px 14px;
  overflow-y: auto;
  border-left: 1px solid var(--line);
  background: var(--sheet);
}

h3 {
  margin-bottom: 5px;
}

.hand-overs {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
}

.places {
  display: grid;
  grid-template-columns: 1fr 80px 54px;
  align-items: center;
  gap: 5px 8px;
}

.places h3,
.whole {
  grid-column: 1 / -1;
  margin-bottom: 0;
}

.places :deep(.ant-input-number) {
  width: 100%;
}

.wide {
  width: 100%;
}

.ramp {
  margin: 4px 0 0;
}

.side {
  display: flex;
  flex-direction: column;
  gap: 5px;
  padding-left: 9px;
  border-left: 3px solid;
}

.side-head {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}

.row {
  display: grid;
  grid-template-columns: 58px auto 1fr;
  align-items: center;
  gap: 8px;
  min-height: 24px;
  white-space: nowrap;
}

.why {
  margin-top: 2px;
  padding-left: 78px;
  font-size: 12px;
  line-height: 1.25;
}

.gain {
  width: 72px;
}

.snags {
  padding: 8px 10px;
  border-radius: var(--radius);
  background: var(--warn-soft);
  color: var(--warn);
  font-size: 13px;
}

.snags p {
  margin: 0;
}

.snags p + p {
  margin-top: 6px;
}

.reset {
  display: flex;
  align-items: center;
  align-self: flex-start;
  gap: 6px;
}

.untouched {
  margin: 0;
  font-size: 12px;
}

@media (max-width: 1180px) {
  .panel {
    padding: 10px;
  }

  .places {
    grid-template-columns: 1fr 66px 50px;
    gap: 5px 6px;
  }
}
</style>
