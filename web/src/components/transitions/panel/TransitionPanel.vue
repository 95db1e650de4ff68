<script setup lang="ts">
import { Button, Switch } from 'ant-design-vue'
import { computed } from 'vue'
import type { Side } from '../../../api/types'
import { useTransition } from '../../../composables/transition/useTransition'
import { useWarnings } from '../../../composables/mix/useWarnings'
import { useMix } from '../../../stores/mix'
import { hueOf } from '../../../theme/hues'
import { entryBeatOf } from '../../../time/entryClock'
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

const emit = defineEmits<{ compare: [] }>()
const { planned, outgoing, incoming, t, pair, isLocked, editing, playhead } = useTransition()
const mix = useMix()

/** Where one more tempo is set: at the playhead, else in the middle of the overlap. */
const tempoAt = computed(() => {
  const at = playhead.value === undefined ? undefined : mix.clock?.beatAt(playhead.value)
  return at ?? (planned.value.start_beat + planned.value.end_beat) / 2
})
const all = useWarnings()
const warnings = computed(() => all.value.filter((s) => s.transition === planned.value.index))
const sides = computed(() => [
  { entry: outgoing.value.entry, word: 'Outgoing', bend: bend('outgoing') },
  { entry: incoming.value.entry, word: 'Incoming', bend: bend('incoming') },
])

/** How far an entry is bent at both edges of the overlap; at a cut the one has left when the other arrives. */
function bend(side: Side) {
  const { entry, clock: own } = side === 'outgoing' ? outgoing.value : incoming.value
  const clock = mix.clocks[entry.clock]
  if (!clock) return ''
  const at = (beat: number) => percent(clock.bpmAt(beat) / own.ownBpm(entryBeatOf(entry, beat)) - 1)
  const span = side === 'outgoing' ? planned.value.out_span : planned.value.in_span
  const { start_beat: from, end_beat: to } = span ?? planned.value
  if (to <= from) return at(side === 'outgoing' ? from - 1e-6 : from)
  const start = at(from)
  const end = at(to - 1e-6)
  return start === end ? start : `${start} to ${end}`
}
</script>

<template>
  <aside class="side-panel" aria-label="Transition">
    <ShapePicker />
    <section v-if="warnings.length" role="status" aria-label="Warnings of this transition">
      <WarningList :warnings="warnings" />
    </section>
    <PlaceFields />
    <PointFields
      v-if="editing.picked.value.length"
      :transition="t"
      :editing="editing"
      :bar="outgoing.clock.bar"
    />
    <ProposalsPane v-if="isLocked" />
    <TakesPane @compare="emit('compare')" />
    <RidePane v-if="t.kind !== 'apart'" />
    <StemsPane v-if="t.kind !== 'apart'" :outgoing="outgoing.entry" :incoming="incoming.entry" />
    <GapFields v-if="isLocked" />
    <EffectsFields v-if="t.kind !== 'apart'" />
    <TempoFields v-if="isLocked" />
    <TempoPointsFields :at="tempoAt" />

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
