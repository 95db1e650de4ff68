<script setup lang="ts">
import { Button, Switch, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import type { Entry } from '../../api/types'
import { useKeyNotation } from '../../composables/page/preferences'
import { LAST, type EntryActions } from '../../composables/order/useEntryActions'
import { accept, carriesTracks, dragged } from '../../composables/library/useListOrder'
import { useRoute } from 'vue-router'
import { useMix } from '../../stores/mix'
import { hueOf } from '../../theme/hues'
import { bpm, clockTime } from '../../time/format'
import { semitones } from '../../time/steps'
import GlyphIcon from '../shared/GlyphIcon.vue'
import NumberField from '../shared/NumberField.vue'
import EntryMenu from './EntryMenu.vue'
import MeetingRow from './MeetingRow.vue'

/** An entry of the running order, and how it meets the next. */
const props = defineProps<{
  entry: Entry
  count: number
  chosen: boolean
  actions: EntryActions
  /** Whether the transition to the next was made again and nobody has looked at it yet. */
  isNew: boolean
}>()
const emit = defineEmits<{
  grab: [event: PointerEvent]
  choose: [event: MouseEvent]
  bridge: []
  replace: []
}>()

const mix = useMix()
const route = useRoute()
const { keyOf } = useKeyNotation()

const hue = computed(() => hueOf(props.entry.index))
const planned = computed(() => mix.plan?.transitions[props.entry.index])
const before = computed(() => mix.plan?.entries[props.entry.index - 1])
const next = computed(() => mix.plan?.entries[props.entry.index + 1])
const isKept = computed(() => props.entry.with_next || !!before.value?.with_next)
const fixedWords = computed(() => {
  const place = props.entry.fixed
  if (place === null) return ''
  return place === LAST ? 'Fixed as the last' : place === 1 ? 'Fixed as the first' : `Fixed at place ${place}`
})

const countWords = computed(
  () => ({ 0.5: 'Counted half', 1: 'At its original tempo', 2: 'Counted double' })[props.entry.count] ?? '',
)

/** Where it goes out at another tempo than it came in at. */
const leaves = computed(() => {
  const { home_bpm: from, leaves_bpm: to, goes_by } = props.entry
  if (bpm(from) === bpm(to)) return undefined
  const why = goes_by === 'own' ? 'It keeps the tempo of its track' : 'It goes at the tempo of the mix'
  return { bpm: bpm(to), why: `${why}: ${bpm(from)} to ${bpm(to)} BPM` }
})

function setPlace(number: number) {
  return mix.send({ kind: 'move_entries', entry_ids: [props.entry.id], to: number - 1 })
}

function setGain(db: number | null) {
  return mix.send({ kind: 'set_gain', entry_id: props.entry.id, gain_db: db })
}

function setTempo(tempo: number | null) {
  return mix.send({ kind: 'set_home_tempo', entry_id: props.entry.id, bpm: tempo })
}

const edits = computed(() => {
  const count = props.entry.edited?.edits.filter((e) => e.on).length ?? 0
  return count ? `${count} ${count === 1 ? 'edit' : 'edits'}` : ''
})

function setShift(shift: number) {
  return mix.send({ kind: 'set_key_shift', entry_id: props.entry.id, semitones: Math.round(shift) })
}

/** Tracks that are dropped on a row come in before it. */
function drop(event: DragEvent) {
  if (!carriesTracks(event)) return
  accept(event)
  const ids = dragged(event)
  if (ids.length) void mix.send({ kind: 'add_tracks', track_ids: ids, at: props.entry.index })
}
</script>

<template>
  <li
    class="entry"
    :data-entry="entry.id"
    :aria-label="`${entry.index + 1}. ${entry.title}`"
    :aria-current="chosen || undefined"
    @click="emit('choose', $event)"
    @dragover="carriesTracks($event) && accept($event)"
    @drop="drop"
  >
    <div class="line" :class="{ chosen, 'kept-on': entry.with_next, 'kept-from': before?.with_next }">
      <button
        type="button"
        class="grip"
        :aria-label="`Move ${entry.title}: drag, or up and down keys`"
        data-own-keys
        @pointerdown="(event) => emit('grab', event)"
        @keydown.up.prevent="entry.index > 0 && setPlace(entry.index)"
        @keydown.down.prevent="entry.index < count - 1 && setPlace(entry.index + 2)"
      >
        <GlyphIcon name="grip" />
      </button>
      <span class="place" :style="{ '--hue': hue.strong, '--on': hue.on }">
        <NumberField
          class="number"
          bare
          :value="entry.index + 1"
          :min="1"
          :max="count"
          :step="1"
          :label="`Place of ${entry.title}`"
          :send="setPlace"
        />
        <Tooltip v-if="entry.fixed !== null" :title="`${fixedWords}: click to let it go`">
          <button
            type="button"
            class="pin"
            :aria-label="`${fixedWords}: let ${entry.title} go`"
            @click.stop="actions.fix(entry, null)"
          >
            <GlyphIcon name="pin" :size="13" />
          </button>
        </Tooltip>
      </span>
      <div class="names">
        <strong class="clip" :title="entry.title">{{ entry.title }}</strong>
        <span class="clip soft" :title="entry.artist"
          ><RouterLink
            v-if="edits"
            class="edits"
            :title="
              entry.edited?.as_recorded
                ? 'Edits are off: the original plays'
                : 'What is heard otherwise than recorded'
            "
            :to="{ name: 'edits', params: { ...route.params, number: entry.index + 1 } }"
            >{{ edits }}</RouterLink
          >
          {{ entry.artist || '–' }}</span
        >
      </div>
      <div class="tempo">
        <NumberField
          class="bpm"
          :value="Math.round(entry.home_bpm * 100) / 100"
          :min="20"
          :max="400"
          :step="0.5"
          :label="leaves ? `Tempo at which ${entry.title} begins` : `Tempo of ${entry.title} in the mix`"
          :send="setTempo"
        />
        <Button
          v-if="entry.tempo != null"
          type="text"
          size="small"
          class="own"
          :title="`Back to the original tempo, ${bpm(entry.own_bpm)} BPM`"
          :aria-label="`Original tempo of ${entry.title}`"
          @click="setTempo(null)"
          ><GlyphIcon name="undo" :size="12"
        /></Button>
        <span v-else class="faint" :title="countWords">{{
          entry.count === 1 ? '' : entry.count === 2 ? '× 2' : '× ½'
        }}</span>
        <span v-if="leaves" class="soft leaves" :title="leaves.why">→ {{ leaves.bpm }}</span>
      </div>
      <div class="key">
        <span
          class="name"
          :title="entry.key_shift ? `Shifted by ${semitones(entry.key_shift)} semitones` : 'Its key'"
          >{{ keyOf(entry) }}</span
        >
        <NumberField
          class="shift"
          bare
          :class="{ moved: entry.key_shift }"
          :value="entry.key_shift"
          :min="-6"
          :max="6"
          :step="1"
          :digits="0"
          :label="`Key shift of ${entry.title} in semitones`"
          :send="setShift"
        />
      </div>
      <span :title="entry.key_shift ? 'A key that is shifted is kept whatever the tempo does' : undefined">
        <Switch
          class="lock"
          size="small"
          :checked="entry.key_lock || entry.key_shift !== 0"
          :disabled="entry.key_shift !== 0"
          :aria-label="`Key lock of ${entry.title}`"
          @change="(on) => mix.send({ kind: 'set_key_lock', entry_id: entry.id, key_lock: Boolean(on) })"
        />
      </span>
      <div class="gain">
        <NumberField
          class="db"
          :value="Math.round(entry.gain_db * 10) / 10"
          :min="-40"
          :max="24"
          :step="0.5"
          :label="`Gain of ${entry.title} in dB`"
          :send="setGain"
        />
        <Button
          v-if="entry.gain_by_hand"
          type="link"
          size="small"
          class="own"
          title="Bring it to the mix's level"
          @click="setGain(null)"
          >match</Button
        >
        <span v-else class="faint" :title="entry.gain_why">dB</span>
      </div>
      <span class="starts">{{ clockTime(entry.start_s) }}</span>
      <EntryMenu :entry="entry" :actions="actions" :is-kept="isKept" @replace="emit('replace')" />
    </div>
    <MeetingRow
      v-if="planned && next"
      :planned="planned"
      :out="entry"
      :into="next"
      :is-new="isNew"
      :is-kept="entry.with_next"
      @bridge="emit('bridge')"
    />
  </li>
</template>

<style scoped>
.entry {
  background: var(--ground);
}

.line {
  position: relative;
  display: grid;
  grid-template-columns: var(--order-columns);
  align-items: center;
  gap: var(--order-gap);
  height: 50px;
  padding-left: 8px;
  border: 1px solid var(--line);
  border-width: 1px 0;
  background: var(--sheet);
}

.line.chosen {
  background: var(--fern-soft);
}

/* Those that are kept together stand in one bracket. */
.line.kept-on::before,
.line.kept-from::before {
  position: absolute;
  top: -1px;
  bottom: -1px;
  left: 3px;
  width: 10px;
  border-left: 3px solid var(--fern);
  content: '';
  pointer-events: none;
}

.line.kept-on:not(.kept-from)::before {
  top: 5px;
  border-top: 3px solid var(--fern);
}

.line.kept-from:not(.kept-on)::before {
  bottom: 5px;
  border-bottom: 3px solid var(--fern);
}

.grip {
  padding: 6px 3px;
  border: 0;
  background: none;
  color: var(--ink-faint);
  cursor: grab;
}

.place {
  position: relative;
}

.number {
  width: 32px;
  border-color: transparent;
  background: var(--hue);
}

.number :deep(input) {
  padding: 0 2px;
  color: var(--on);
  font-weight: 600;
  text-align: center;
}

.pin {
  position: absolute;
  top: -10px;
  left: 21px;
  display: grid;
  place-items: center;
  width: 19px;
  height: 19px;
  padding: 0;
  border: 1px solid var(--line-strong);
  border-radius: 50%;
  background: var(--sheet);
  color: var(--fern);
  cursor: pointer;
}

.names {
  display: flex;
  flex-direction: column;
  min-width: 0;
  line-height: 1.25;
}

.tempo,
.gain,
.key {
  display: flex;
  align-items: center;
  gap: 5px;
  min-width: 0;
}

.tempo .faint {
  overflow: hidden;
}

.bpm {
  width: 68px;
}

.leaves {
  white-space: nowrap;
}

.key .name {
  min-width: 27px;
}

.shift {
  width: 42px;
}

.shift :deep(input) {
  padding: 0 6px;
}

.shift.moved :deep(input) {
  color: var(--fern);
  font-weight: 600;
}

.db {
  width: 60px;
}

.own {
  padding: 0;
  font-size: 12px;
}

.lock {
  justify-self: start;
}

.starts {
  text-align: right;
}

@media (max-width: 1180px) {
  .bpm {
    width: 60px;
  }

  .db {
    width: 54px;
  }
}

.edits {
  margin-right: 4px;
  padding: 0 4px;
  border-radius: 3px;
  background: var(--fern-soft);
  color: var(--fern);
}
</style>
