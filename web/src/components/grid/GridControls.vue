<script setup lang="ts">
import { Button, Segmented, Tooltip } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Track } from '../../api/types'
import type { GridActions } from '../../composables/track/useGridActions'
import { typicalOffset } from '../../time/doubtfulPlaces'
import { keyFor, useKeys } from '../../composables/page/useKeys'
import { RANGES, useTempoRange } from '../../composables/page/preferences'
import { FINE_MS } from '../../time/doubtfulPlaces'
import { useMarkup } from '../../stores/markup'
import { BarLines, PHRASE_BARS } from '../../time/barLines'
import { bpm } from '../../time/format'
import { sectionLabel } from '../../time/sections'
import ActionButton from '../shared/ActionButton.vue'
import GlyphIcon from '../shared/GlyphIcon.vue'
import NumberField from '../shared/NumberField.vue'
import PickField from '../shared/PickField.vue'
import StraightenBox from './StraightenBox.vue'

const { actions, track, taps, cursor } = defineProps<{
  actions: GridActions
  track: Track | undefined
  cursor: number
  /** Beats tapped so far. */
  taps: number
}>()
const emit = defineEmits<{ tap: []; seek: [seconds: number] }>()

const markup = useMarkup()
const { chosen, range } = useTempoRange()
const slideBy = ref(0)
/** Whether measuring again and following concern the whole track or the section at the cursor. */
const where = ref<'everywhere' | 'section'>('everywhere')
const section = computed(() => {
  const at = markup.beats?.beatAt(cursor) ?? 0
  return markup.track?.markup.sections?.find((s) => s.start <= at && at < s.end)
})
const spanBeats = computed(() =>
  where.value === 'section' && section.value
    ? { from_beat: section.value.start, to_beat: section.value.end }
    : undefined,
)
const spanSeconds = computed(() =>
  spanBeats.value && markup.beats
    ? {
        start_s: Math.max(0, markup.beats.timeAt(spanBeats.value.from_beat)),
        end_s: markup.beats.timeAt(spanBeats.value.to_beat),
      }
    : undefined,
)
/** A ramp that is being thought of: to which tempo, over how many beats. */
const rampTo = ref<number>()
const rampBeats = ref(32)
const setRampTo = (bpm: number) => Promise.resolve(((rampTo.value = bpm), true))
const setRampBeats = (beats: number) => Promise.resolve(((rampBeats.value = beats), true))
async function rampFromHere() {
  if (rampTo.value === undefined) return
  const ramp = { ...actions.place.value, beats: rampBeats.value, bpm: rampTo.value }
  if (await markup.send({ kind: 'ramp_from', ...ramp })) rampTo.value = undefined
}
const { byId } = actions
useKeys(
  'At the cursor',
  actions.all.map((a) => ({ keys: [a.key], label: a.label, run: () => void (markup.track && a.run()) })),
)
const follow = (every: number) => markup.follow(every, spanBeats.value)
const WHERE = [
  { value: 'everywhere', label: 'Everywhere' },
  { value: 'section', label: 'In this section' },
]

const grid = computed(() => markup.grid)
/** The bar and the beat in it of the line nearest to the cursor, counted from 1. */
const here = computed(() => {
  const beat = actions.beat.value
  const bars = markup.beats?.bars ?? BarLines.every(4)
  const bar = bars.barOf(beat)
  return {
    bar: bar + 1,
    beat: bars.within(beat) + 1,
    of: bars.lengthOf(bar),
    inPhrase: bars.inPhrase(bar) + 1,
    phrase: bars.phraseOf(bar),
  }
})
/** Where the line lies in its section. */
const inSection = computed(() => {
  const beat = actions.beat.value
  const bars = markup.beats?.bars
  const s = markup.track?.markup.sections?.find((s) => s.start <= beat && beat < s.end)
  if (!bars || !s) return ''
  const [first, last] = [bars.barOf(s.start), Math.round(bars.at(s.end))]
  return `${s.name || sectionLabel(s.kind)}, bar ${bars.barOf(beat) - first + 1} of ${last - first}`
})
const off = computed(() => {
  if (actions.place.value.at_s === undefined) return ''
  const ms = Math.round(Math.abs(actions.off.value) * 1000)
  return `${ms} ms ${actions.off.value > 0 ? 'after' : 'before'} its line`
})
/** The first and the last bar that the track has something of. */
const bars = computed(() => {
  const barAt = (s: number) => (markup.beats ? markup.beats.bars.barOf(markup.beats.beatAt(s)) + 1 : 1)
  return { first: barAt(0), last: barAt(track?.duration_s ?? 0) }
})
function goToBar(bar: number) {
  const { beats } = markup
  if (beats) emit('seek', Math.max(0, beats.timeAt(beats.bars.beatOf(bar - 1))))
  return Promise.resolve(true)
}
const tempoHere = computed(() => {
  if (!markup.beats) return 0
  return markup.beats.bpmAt(markup.beats.beatAt(cursor))
})
const offset = computed(() => (markup.offsets ? typicalOffset(markup.offsets) : undefined))
const other = computed(() => track?.doubts?.find((d) => d.kind === 'octave')?.bpm)

async function slideBySet(ms: number) {
  slideBy.value = ms
  const done = await actions.slide(ms / 1000)
  slideBy.value = 0
  return done
}
</script>

<template>
  <div>
    <section class="look">
      <h3>To check</h3>
      <p v-if="!grid && !track?.doubts?.length" class="soft">No grid yet.</p>
      <p v-if="markup.track?.markup.by_hand" class="soft">You set this grid. Analysis does not change it.</p>
      <ul v-else-if="track?.doubts?.length" class="doubts">
        <li v-for="d in track.doubts" :key="d.text">
          <GlyphIcon name="flag" :size="13" /> <span>{{ d.text }}</span>
          <Button
            v-if="d.at_s !== null && d.at_s !== undefined"
            size="small"
            type="link"
            @click="$emit('seek', d.at_s)"
            >Go there</Button
          >
        </li>
      </ul>
      <p v-else-if="grid" class="soft">The analysis is sure of this grid.</p>
      <p v-if="offset !== undefined" class="offset">
        Onsets lie <strong>{{ offset.toFixed(1) }} ms</strong> from the lines,
        {{ offset <= FINE_MS ? 'which is fine' : 'which can be heard' }}.
      </p>
      <p v-else-if="track?.outdated" class="soft">
        Analysed by an older version. Analyse it again in Tracks to see more.
      </p>
    </section>

    <section>
      <h3>Tempo</h3>
      <div class="row">
        <NumberField
          class="tempo"
          label="Tempo in BPM"
          :value="tempoHere"
          :step="0.01"
          :min="20"
          :max="400"
          :send="(v) => markup.send({ kind: 'set_tempo', bpm: v, about_beat: actions.beat.value })"
        />
        <span class="soft">BPM</span>
        <ActionButton :action="byId.halve!" label="½" :disabled="!grid" />
        <ActionButton :action="byId.double!" label="×2" :disabled="!grid" />
        <ActionButton :action="byId.round!" label="Round" :disabled="!grid" />
      </div>
      <div v-if="other && grid" class="row">
        <Button
          size="small"
          @click="markup.send({ kind: 'scale_tempo', factor: other / (markup.track?.mean_bpm ?? other) })"
          >Take {{ bpm(other) }} BPM instead</Button
        >
      </div>
      <div class="row">
        <PickField v-model:value="chosen" class="range" :options="RANGES" label="Range of tempi" />
        <Tooltip :title="`Find the grid again within this range (${keyFor('m')})`">
          <Button size="small" @click="markup.measure(range, spanSeconds)">Measure again</Button>
        </Tooltip>
      </div>
      <div class="row">
        <span class="soft">Measure, follow</span>
        <Segmented
          v-model:value="where"
          :options="WHERE"
          size="small"
          aria-label="Where to measure and follow"
        />
      </div>
      <div class="row">
        <Tooltip :title="`Tap on every beat while the track plays (${keyFor('t')})`">
          <Button size="small" @click="$emit('tap')">Tap along</Button>
        </Tooltip>
        <span class="soft">{{ taps ? `${taps} beats tapped` : 'four beats or more' }}</span>
      </div>
    </section>

    <section>
      <h3>Slide the grid</h3>
      <div class="row">
        <ActionButton :action="byId.earlier10!" label="−10" :disabled="!grid" />
        <ActionButton :action="byId.earlier!" label="−1" :disabled="!grid" />
        <NumberField
          class="ms"
          label="Slide by ms"
          :value="slideBy"
          :step="1"
          :min="-2000"
          :max="2000"
          :send="slideBySet"
        />
        <span class="soft">ms</span>
        <ActionButton :action="byId.later!" label="+1" :disabled="!grid" />
        <ActionButton :action="byId.later10!" label="+10" :disabled="!grid" />
      </div>
      <div class="row">
        <ActionButton :action="byId.beatEarlier!" label="− beat" :disabled="!grid" />
        <ActionButton :action="byId.beatLater!" label="+ beat" :disabled="!grid" />
      </div>
    </section>

    <section>
      <h3>At the cursor</h3>
      <div v-if="grid" class="row">
        <span class="soft">Bar</span>
        <NumberField
          class="bar"
          label="Go to bar"
          :value="here.bar"
          :step="1"
          :min="bars.first"
          :max="bars.last"
          :send="goToBar"
        />
        <span class="soft nowrap"
          >beat {{ here.beat }} of {{ here.of }}<template v-if="off">, {{ off }}</template></span
        >
      </div>
      <p v-if="grid" class="soft phrase">
        Phrase {{ here.phrase }}, bar {{ here.inPhrase }} of {{ PHRASE_BARS
        }}<template v-if="inSection">; {{ inSection }}</template>
      </p>
      <div class="row">
        <ActionButton :action="byId.snap!" label="Snap to onset" :disabled="!grid" />
        <ActionButton :action="byId.lineHere!" label="Line here" :disabled="!grid" />
      </div>
      <div class="row">
        <ActionButton :action="byId.one!" :disabled="!grid" />
        <ActionButton :action="byId.first!" :disabled="!grid" />
      </div>
      <div class="row">
        <span class="soft nowrap">From here on, bars of</span>
        <NumberField
          class="ramp"
          label="Beats a bar from here on"
          :value="actions.bar.value.beats"
          :step="1"
          :min="2"
          :max="12"
          :send="(v) => markup.send({ kind: 'bars_begin', beat: actions.beat.value, beats: v })"
        />
        <ActionButton
          :action="
            actions.bar.value.isAnew ? { ...byId.barHere!, label: 'Bars count on here' } : byId.barHere!
          "
          :label="actions.bar.value.isAnew ? 'Count on' : 'Start'"
          :disabled="!grid || actions.beat.value === 0"
        />
      </div>
      <div class="row">
        <ActionButton
          :action="byId.anchor!"
          :label="actions.isAnchor.value ? 'Remove anchor' : 'Add anchor'"
          :disabled="!grid"
        />
        <span class="soft">{{ grid?.anchors.length ?? 0 }} in all</span>
      </div>
      <div class="row">
        <span class="soft">Tempo from here</span>
        <NumberField
          class="tempo"
          label="New tempo from here in BPM"
          :value="tempoHere"
          :step="0.01"
          :min="20"
          :max="400"
          :send="(v) => markup.send({ kind: 'tempo_from', ...actions.place.value, bpm: v })"
        />
        <ActionButton :action="byId.measureFrom!" label="Measure" :disabled="!grid" />
      </div>
      <div class="row">
        <span class="soft">Count from here</span>
        <Tooltip
          v-for="[factor, label, title] in [
            [0.5, '½', 'Half as many beats from here on'],
            [2, '×2', 'Twice as many beats from here on'],
          ] as const"
          :key="factor"
          :title="title"
        >
          <Button
            size="small"
            :aria-label="title"
            :disabled="!grid"
            @click="markup.send({ kind: 'scale_from', beat: actions.beat.value, factor })"
            >{{ label }}</Button
          >
        </Tooltip>
      </div>
      <div class="row">
        <span class="soft nowrap">Ramp to</span>
        <NumberField
          class="ramp"
          label="Ramp from here to, in BPM"
          :value="rampTo ?? tempoHere"
          :digits="1"
          :step="1"
          :min="20"
          :max="400"
          :send="setRampTo"
        />
        <span class="soft">over</span>
        <NumberField
          class="ramp"
          label="Beats of the ramp"
          :value="rampBeats"
          :step="4"
          :min="1"
          :max="4096"
          :send="setRampBeats"
        />
        <span class="soft">beats</span>
        <Button
          size="small"
          :disabled="!grid || rampTo === undefined || Math.abs(rampTo - tempoHere) < 0.005"
          @click="rampFromHere"
          >Ramp</Button
        >
      </div>
    </section>

    <section>
      <h3>Follow live tempo</h3>
      <div class="row">
        <ActionButton
          :action="{ ...byId.follow!, run: () => follow(1) }"
          label="Every beat"
          :disabled="!grid"
        />
        <ActionButton
          :action="{ ...byId.followBars!, run: () => follow(grid?.beats_per_bar ?? 1) }"
          label="Every bar"
          :disabled="!grid"
        />
      </div>
    </section>

    <StraightenBox
      v-if="grid && track && markup.track"
      :track-id="track.id"
      :version="markup.track.version"
    />

    <section>
      <h3>Level</h3>
      <div class="row">
        <span class="soft">Trim</span>
        <NumberField
          class="ms"
          label="Trim in dB"
          :value="markup.track?.markup.trim_db ?? 0"
          :step="0.5"
          :min="-24"
          :max="24"
          :send="(db) => markup.send({ kind: 'set_trim', db })"
        />
        <span class="soft">dB more than its loudness says</span>
      </div>
    </section>

    <section>
      <ActionButton :action="byId.analysed!" :disabled="!markup.track?.has_analysed" />
    </section>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  gap: 6px;
}

.row + .row,
.phrase,
.phrase + .row {
  margin-top: 7px;
}

.phrase {
  margin-bottom: 0;
  font-size: 12.5px;
}

.doubts li {
  display: flex;
  align-items: baseline;
  gap: 6px;
  padding: 1px 0;
  color: var(--warn);
}

p {
  margin: 0;
}

.offset {
  margin-top: 4px;
}

.tempo {
  width: 82px;
}

.bar {
  width: 66px;
}

.ms {
  width: 60px;
}

.nowrap {
  white-space: nowrap;
}

.ramp {
  width: 52px;
}

.range {
  width: 130px;
}
</style>
