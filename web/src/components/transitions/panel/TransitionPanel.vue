<script setup lang="ts">
import { Button, Switch } from 'ant-design-vue'
import { computed } from 'vue'
import type { Placing, PlannedTransition, Side } from '../../../api/types'
import type { CurveEditing } from '../../../composables/transition/useCurveEditing'
import type { Place } from '../../../composables/transition/usePlacing'
import type { TransitionSide } from '../../../time/transitionSide'
import { useWarnings } from '../../../composables/mix/useWarnings'
import { useMix } from '../../../stores/mix'
import { hueOf } from '../../../theme/hues'
import { percent } from '../../../time/format'
import GlyphIcon from '../../shared/GlyphIcon.vue'
import NumberField from '../../shared/NumberField.vue'
import WarningList from '../../shared/WarningList.vue'
import GapFields from './GapFields.vue'
import EffectsFields from './EffectsFields.vue'
import ShapePicker from './ShapePicker.vue'
import PlaceFields from './PlaceFields.vue'
import PointFields from './PointFields.vue'
import ProposalsPane from './ProposalsPane.vue'
import RidePane from './RidePane.vue'
import StemsPane from './StemsPane.vue'
import TakesPane from './TakesPane.vue'
import TempoFields from './TempoFields.vue'
import TempoPointsFields from './TempoPointsFields.vue'

const props = defineProps<{
  planned: PlannedTransition
  outgoing: TransitionSide
  incoming: TransitionSide
  place: Place
  editing?: CurveEditing
  proposals?: Placing[]
  /** The transitions that are chosen, this one included. */
  several?: number[]
  /** The beat of the mix at the playhead, if it plays. */
  beat?: number
}>()
const emit = defineEmits<{ use: [take: number]; compare: []; point: [proposal: Placing | undefined] }>()
const mix = useMix()

const t = computed(() => props.planned.transition)
const pair = computed(() => ({ out_id: t.value.out_id, in_id: t.value.in_id }))
const isLocked = computed(() => t.value.kind === 'blend' || t.value.kind === 'cut')
const all = useWarnings()
const warnings = computed(() => all.value.filter((s) => s.transition === props.planned.index))
const sides = computed(() => [
  { entry: props.outgoing.entry, word: 'Outgoing', bend: bend('outgoing') },
  { entry: props.incoming.entry, word: 'Incoming', bend: bend('incoming') },
])

/** How far an entry is bent at both edges of the overlap; at a cut the one has left when the other arrives. */
function bend(side: Side) {
  const { entry } = props[side]
  const clock = mix.clocks[entry.clock]
  if (!clock) return ''
  const at = (beat: number) => percent(clock.bpmAt(beat) / entry.own_bpm - 1)
  const span = side === 'outgoing' ? props.planned.out_span : props.planned.in_span
  const { start_beat: from, end_beat: to } = span ?? props.planned
  if (to <= from) return at(side === 'outgoing' ? from - 1e-6 : from)
  const start = at(from)
  const end = at(to - 1e-6)
  return start === end ? start : `${start} to ${end}`
}
</script>

<template>
  <aside class="side-panel" aria-label="Transition">
    <ShapePicker :planned="planned" :several="several ?? [planned.index]" />
    <section v-if="warnings.length" role="status" aria-label="Warnings of this transition">
      <WarningList :warnings="warnings" />
    </section>
    <PlaceFields :planned="planned" :outgoing="outgoing" :incoming="incoming" :place="place" />
    <PointFields
      v-if="editing?.picked.value.length"
      :transition="t"
      :editing="editing"
      :bar="outgoing.clock.bar"
    />
    <ProposalsPane
      v-if="isLocked"
      :planned="planned"
      :outgoing="outgoing"
      :incoming="incoming"
      :proposals="proposals"
      @point="(p) => emit('point', p)"
    />
    <TakesPane :planned="planned" @use="(n) => emit('use', n)" @compare="emit('compare')" />
    <RidePane
      v-if="editing && t.kind !== 'apart'"
      :planned="planned"
      :outgoing="outgoing"
      :incoming="incoming"
      :editing="editing"
    />
    <StemsPane v-if="t.kind !== 'apart'" :outgoing="outgoing.entry" :incoming="incoming.entry" />
    <GapFields v-if="isLocked" :transition="t" />
    <EffectsFields v-if="t.kind !== 'apart'" :transition="t" />
    <TempoFields v-if="isLocked" :planned="planned" :outgoing="outgoing" :incoming="incoming" />
    <TempoPointsFields :at="beat ?? (planned.start_beat + planned.end_beat) / 2" />

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

    <Button
      v-if="planned.shaped"
      class="reset"
      size="small"
      title="Forget what was placed and shaped by hand"
      @click="mix.send({ kind: 'reset_transition', ...pair })"
    >
      <GlyphIcon name="undo" :size="13" /> As if untouched
    </Button>
    <p v-else class="faint untouched">Placed and shaped automatically.</p>
  </aside>
</template>

<style scoped>
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
  .side-panel {
    padding: 10px;
  }
}
</style>
