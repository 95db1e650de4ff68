<script setup lang="ts">
import { Button, Switch } from 'ant-design-vue'
import { computed } from 'vue'
import type { Layer, PlannedLayer } from '../../api/types'
import { useGrids } from '../../composables/mix/useGrids'
import { isHush } from '../../composables/layers/useLayerLanes'
import type { Layers } from '../../composables/layers/useLayers'
import { BarLines } from '../../time/barLines'
import { useMix } from '../../stores/mix'
import { nameOf } from '../../time/cues'
import { barsLong, clockTenths } from '../../time/format'
import { fitted, oneTime } from '../../time/layers'
import { semitones } from '../../time/steps'
import NumberField from '../shared/NumberField.vue'
import PickField from '../shared/PickField.vue'
import TextField from '../shared/TextField.vue'
import { entryBeatOf } from '../../time/entryClock'
import { keyFor } from '../../composables/page/useKeys'

const MOST_SHIFT = 6

/** All that can be said of a layer in numbers: what it is, where it lies, how often, how loud. */
const props = defineProps<{ planned: PlannedLayer; layers: Layers }>()
const mix = useMix()

const layer = computed(() => props.planned.layer)
const sound = computed(() => layer.value.sound)
const change = (more: Partial<Layer>) => props.layers.put(fitted({ ...layer.value, ...more }))
/** The bars of the entry that it is tied to. */
const bars = computed(() => (tied.value ? BarLines.ofEntry(tied.value) : BarLines.every(bar.value)))
const bar = computed(() => props.layers.leading(props.planned.start_s)?.bar ?? 4)

/** What it can be tied to: the mix, each entry, its cues, each transition. */
const entries = computed(() => mix.plan?.entries ?? [])
const tied = computed(() => {
  const { at } = layer.value
  return at.to === 'entry' ? entries.value.find((e) => e.id === at.entry_id) : undefined
})
const grids = useGrids(computed(() => [tied.value]))
const cues = computed(() => (tied.value && grids.value.get(tied.value.track_id)?.cues) ?? [])
const ties = computed(() => [
  { value: 'mix', label: 'a beat of the mix' },
  ...entries.value.map((e) => ({ value: `entry ${e.id}`, label: e.title })),
  ...(mix.plan?.transitions ?? []).map((t) => ({
    value: `transition ${t.transition.out_id} ${t.transition.in_id}`,
    label: `${entries.value[t.index]!.title} → ${entries.value[t.index + 1]!.title}`,
  })),
])
const tie = computed(() => {
  const { at } = layer.value
  if (at.to === 'mix') return 'mix'
  return at.to === 'entry' ? `entry ${at.entry_id}` : `transition ${at.out_id} ${at.in_id}`
})
const cueOptions = computed(() => [
  { value: '', label: 'its beats' },
  ...cues.value.map((c) => ({ value: c.id, label: `cue ‘${nameOf(c)}’` })),
])
const EDGES = [
  { value: 'start', label: 'where it starts' },
  { value: 'middle', label: 'its middle' },
  { value: 'end', label: 'where it ends' },
]

/** Tie it to something else; it stays where it is. */
function tieTo(value: string) {
  const [to, first, second] = value.split(' ')
  const up = props.planned.leads_up
  const seconds = up ? props.planned.end_s : props.planned.start_s
  const clock = (index: number | undefined) => mix.clocks[index ?? 0]!
  const round = (beat: number) => Math.round(beat * 1e4) / 1e4
  if (to === 'mix') return change({ at: { to: 'mix', beat: round(mix.clock!.beatAt(seconds)) } })
  if (to === 'entry') {
    const entry = entries.value.find((e) => e.id === first)!
    const beat = round(entryBeatOf(entry, clock(entry.clock).beatAt(seconds)))
    return change({ at: { to: 'entry', entry_id: entry.id, beat, cue: null } })
  }
  const t = mix.plan!.transitions.find((x) => x.transition.out_id === first && x.transition.in_id === second)!
  const into = clock(entries.value[t.index + 1]!.clock)
  const beat = round(into.beatAt(seconds) - into.beatAt(t.end_s))
  return change({ at: { to: 'transition', out_id: first!, in_id: second!, edge: 'end', beat } })
}

/** Count from a cue, or from the entry's beats; it goes to the place of the cue. */
function tieToCue(id: string) {
  const { at } = layer.value
  const cue = cues.value.find((c) => c.id === id)
  if (at.to !== 'entry') return
  void change({ at: { ...at, beat: cue ? 0 : at.beat, cue: cue ? { id, name: nameOf(cue) } : null } })
}

const long = computed(() => oneTime(layer.value))
function setLong(beats: number) {
  const s = sound.value
  return change({ sound: s.of === 'track' ? { ...s, beats: beats / s.count } : { ...s, beats } })
}
function setFrom(start: number) {
  const s = sound.value
  return s.of === 'track' ? change({ sound: { ...s, start } }) : Promise.resolve(false)
}
const fits = computed(() => {
  const shift = props.planned.fitting_shift
  return shift !== null && Math.abs(shift) <= MOST_SHIFT && shift !== layer.value.key_shift
    ? shift
    : undefined
})
</script>

<template>
  <section class="numbers full-numbers" :aria-label="`Layer: ${planned.words}`">
    <h3 class="whole clip">{{ planned.words }}</h3>
    <p v-if="planned.waits" class="whole waits">Not heard: {{ planned.waits }}.</p>
    <p v-else class="whole soft place">
      {{ clockTenths(planned.start_s) }} to {{ clockTenths(planned.end_s)
      }}{{ planned.key ? `, in ${planned.key}` : '' }}
    </p>
    <div class="whole acts">
      <Button
        size="small"
        type="primary"
        :title="`Within the mix (${keyFor('h')})`"
        @click="layers.hear(planned, false)"
        >Hear in mix</Button
      >
      <Button
        v-if="!isHush(layer)"
        size="small"
        :title="`This layer alone (${keyFor('j')})`"
        @click="layers.hear(planned, true)"
        >Alone</Button
      >
      <label class="on"
        ><Switch
          size="small"
          :checked="layer.on"
          aria-label="Layer is on"
          @change="(on) => change({ on: Boolean(on) })"
        />
        on</label
      >
      <Button size="small" type="text" title="Take it away (Delete)" @click="layers.remove(layer.id)"
        >remove</Button
      >
    </div>
    <div class="whole">
      <TextField
        :value="layer.name"
        label="Name of the layer"
        placeholder="a name"
        @send="(name) => change({ name })"
      />
    </div>

    <div class="whole tie">
      <span class="soft">{{ planned.leads_up ? 'Ends, counted from' : 'Begins, counted from' }}</span>
      <PickField :value="tie" label="Tied to" :options="ties" @update:value="(v) => v && tieTo(v)" />
      <PickField
        v-if="layer.at.to === 'entry'"
        :value="layer.at.cue?.id ?? ''"
        label="From its beats or a cue"
        :options="cueOptions"
        @update:value="(v) => tieToCue(v ?? '')"
      />
      <PickField
        v-if="layer.at.to === 'transition'"
        :value="layer.at.edge"
        label="From which place of the transition"
        :options="EDGES"
        @update:value="(edge) => change({ at: { ...layer.at, edge } as Layer['at'] })"
      />
    </div>
    <label for="layer-at">On beat</label>
    <NumberField
      id="layer-at"
      :value="layer.at.beat"
      :step="bar"
      :min="-1e6"
      :send="(beat) => change({ at: { ...layer.at, beat } })"
    />
    <span class="faint">{{
      layer.at.to === 'entry' && !layer.at.cue ? `bar ${bars.barOf(layer.at.beat) + 1}` : ''
    }}</span>

    <template v-if="sound.of === 'track'">
      <label for="layer-from">From its beat</label>
      <NumberField id="layer-from" :value="sound.start" :step="bar" :min="-1e6" :send="setFrom" />
      <span />
    </template>
    <label for="layer-long">Length</label>
    <NumberField id="layer-long" :value="long" :step="bar" :min="0.25" :max="1024" :send="setLong" />
    <span class="faint">{{ barsLong(long, bar) }}</span>
    <template v-if="!isHush(layer)">
      <template v-if="sound.of === 'track'">
        <label for="layer-times">Times</label>
        <NumberField
          id="layer-times"
          :value="layer.times"
          :step="1"
          :min="1"
          :max="64"
          :send="(n) => change({ times: Math.round(n) })"
        />
        <span />
        <template v-if="layer.times > 1">
          <label for="layer-apart">Again after</label>
          <NumberField
            id="layer-apart"
            :value="layer.apart ?? long"
            :step="bar"
            :min="long"
            :max="1024"
            :send="(n) => change({ apart: n > long ? n : null })"
          />
          <span class="faint">beats</span>
        </template>
      </template>
      <label for="layer-gain">Gain</label>
      <NumberField
        id="layer-gain"
        :value="layer.gain_db"
        :step="1"
        :min="-40"
        :max="24"
        :send="(gain_db) => change({ gain_db })"
      />
      <span class="faint">dB</span>
      <template v-if="sound.of === 'track'">
        <label for="layer-key">Key shift</label>
        <NumberField
          id="layer-key"
          :value="layer.key_shift"
          :step="1"
          :min="-MOST_SHIFT"
          :max="MOST_SHIFT"
          :send="(n) => change({ key_shift: Math.round(n) })"
        />
        <Button
          v-if="fits !== undefined"
          size="small"
          type="link"
          title="So it fits"
          @click="change({ key_shift: fits })"
          >{{ semitones(fits) || '0' }} fits</Button
        >
        <span v-else class="faint">{{ planned.key ?? '' }}</span>
      </template>
      <label for="layer-in">Fade in</label>
      <NumberField
        id="layer-in"
        :value="layer.fade_in"
        :step="1"
        :min="0"
        :max="1024"
        :send="(fade_in) => change({ fade_in })"
      />
      <span class="faint">beats</span>
      <label for="layer-out">Fade out</label>
      <NumberField
        id="layer-out"
        :value="layer.fade_out"
        :step="1"
        :min="0"
        :max="1024"
        :send="(fade_out) => change({ fade_out })"
      />
      <span class="faint">beats</span>
    </template>
    <template v-else>
      <label for="layer-tail">Tail</label>
      <NumberField
        id="layer-tail"
        :value="layer.effects.reverb_s"
        :step="0.5"
        :min="0.3"
        :max="8"
        :send="(reverb_s) => change({ effects: { ...layer.effects, reverb_s } })"
      />
      <span class="faint">s</span>
    </template>
    <label v-if="sound.of === 'track'" class="whole follow" title="Off: it plays at its original speed"
      ><Switch
        size="small"
        :checked="sound.follows"
        aria-label="Follow the beat"
        @change="(on) => sound.of === 'track' && change({ sound: { ...sound, follows: Boolean(on) } })"
      />
      Follow the beat</label
    >
  </section>
</template>

<style scoped>
.whole {
  grid-column: 1 / -1;
}

h3.whole {
  font-size: 14px;
  color: var(--ink);
}

p {
  margin: 0;
}

.place,
.follow {
  font-size: 12.5px;
}

.waits {
  color: var(--warn);
  font-size: 12.5px;
}

.acts {
  display: flex;
  align-items: center;
  gap: 6px;
  margin-bottom: 2px;
}

.on {
  display: flex;
  align-items: center;
  gap: 4px;
  margin-left: auto;
}

.tie {
  display: grid;
  gap: 4px;
}

.tie :deep(.pick) {
  min-width: 0;
}
</style>
