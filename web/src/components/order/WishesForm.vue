<script setup lang="ts">
import { Slider, Switch } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Wishes } from '../../api/types'
import type { LibraryPart } from '../../composables/order/useOrders'
import { SHAPES, WEIGHTS } from '../../time/shapes'
import NumberField from '../shared/NumberField.vue'
import PickField from '../shared/PickField.vue'
import ScopePicker from './ScopePicker.vue'
import ShapeField from './ShapeField.vue'

const TONICS = ['C', 'Db', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'Ab', 'A', 'Bb', 'B']
const MINORS = ['C', 'C#', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'G#', 'A', 'Bb', 'B']
const WEIGHT_WORDS = ['not at all', 'a little', 'as usual', 'more', 'above all']
const WEIGHT_VALUES = [0, 0.5, 1, 2, 4]

/** What is wished of an order. */
const { tracks } = defineProps<{ tracks: number }>()
const wishes = defineModel<Wishes>('wishes', { required: true })
const library = defineModel<LibraryPart | null>('library', { required: true })

const more = ref(false)
const keys = [
  { value: '', label: 'Any key' },
  ...TONICS.map((name, tonic) => ({ value: `${tonic} major`, label: name })),
  ...MINORS.map((name, tonic) => ({ value: `${tonic} minor`, label: `${name}m` })),
]
const startKey = computed({
  get: () =>
    wishes.value.start_key
      ? `${wishes.value.start_key.tonic} ${wishes.value.start_key.minor ? 'minor' : 'major'}`
      : '',
  set: (value) => {
    const [tonic, mode] = value.split(' ')
    change({ start_key: value ? { tonic: Number(tonic), minor: mode === 'minor' } : null })
  },
})
const list = computed({
  get: () => library.value?.list_id ?? undefined,
  set: (id) => (library.value = { search: library.value?.search ?? '', list_id: id ?? null }),
})
const search = computed({
  get: () => library.value?.search ?? '',
  set: (text) => (library.value = { search: text, list_id: library.value?.list_id ?? null }),
})

function change(some: Partial<Wishes>) {
  wishes.value = { ...wishes.value, ...some }
}

/** Fields of numbers wait for a promise that says whether the number was taken. */
function put(some: Partial<Wishes>): Promise<boolean> {
  change(some)
  return Promise.resolve(true)
}

const placeOf = (weight: number) => {
  const at = WEIGHT_VALUES.findIndex((v) => v >= weight)
  return at < 0 ? WEIGHT_VALUES.length - 1 : at
}
</script>

<template>
  <form class="wishes" aria-label="Wishes" @submit.prevent>
    <h3>Energy</h3>
    <PickField
      label="Shape of the energy"
      :options="SHAPES"
      :value="wishes.shape"
      @update:value="(shape) => shape && change({ shape })"
    />
    <ShapeField
      :shape="wishes.shape"
      :drawn="wishes.drawn as [number, number][]"
      @update:shape="(shape) => change({ shape })"
      @update:drawn="(drawn) => change({ drawn })"
    />
    <h3>What counts</h3>
    <div v-for="w in WEIGHTS" :key="w.name" class="weight" :title="w.why">
      <span class="clip">{{ w.label }}</span>
      <span class="soft word">{{ WEIGHT_WORDS[placeOf(wishes.weights[w.name])] }}</span>
      <Slider
        class="slider"
        :value="placeOf(wishes.weights[w.name])"
        :min="0"
        :max="4"
        :step="1"
        :tooltip-open="false"
        :aria-label-for-handle="w.label"
        @change="(at) => change({ weights: { ...wishes.weights, [w.name]: WEIGHT_VALUES[Number(at)] } })"
      />
    </div>
    <label class="line"
      ><span>Keys may be shifted by a semitone</span>
      <Switch
        size="small"
        :checked="wishes.shifts"
        aria-label="Keys may be shifted by a semitone"
        @change="(on) => change({ shifts: Boolean(on) })"
    /></label>
    <button type="button" class="more" :aria-expanded="more" @click="more = !more">
      {{ more ? 'Less' : 'Start, length, what may come and go' }}
    </button>
    <template v-if="more">
      <div class="line">
        <label
          ><Switch
            size="small"
            :checked="wishes.start_bpm !== null"
            aria-label="Start at a tempo"
            @change="(on) => change({ start_bpm: on ? 120 : null })"
          />
          Start at</label
        >
        <NumberField
          v-if="wishes.start_bpm !== null"
          class="short"
          :value="wishes.start_bpm"
          :min="20"
          :max="400"
          :step="1"
          label="Tempo at the start"
          :send="(start_bpm) => put({ start_bpm })"
        />
        <PickField v-model:value="startKey" :options="keys" label="Key at the start" />
      </div>
      <div class="line">
        <label
          ><Switch
            size="small"
            :checked="wishes.length_s !== null"
            aria-label="A wished length"
            @change="(on) => change({ length_s: on ? 3600 : null })"
          />
          Lasts</label
        >
        <template v-if="wishes.length_s !== null">
          <NumberField
            class="short"
            :value="wishes.length_s / 60"
            :min="5"
            :max="1440"
            :step="5"
            label="Length in minutes"
            :send="(minutes) => put({ length_s: minutes * 60 })"
          />
          within
          <NumberField
            class="short"
            :value="wishes.within_s / 60"
            :min="0.5"
            :max="60"
            :step="1"
            label="Within so many minutes"
            :send="(minutes) => put({ within_s: minutes * 60 })"
          />
          min
        </template>
      </div>
      <label v-if="wishes.length_s === null" class="line"
        ><span>May leave out</span>
        <NumberField
          class="short"
          :value="wishes.leave_out"
          :min="0"
          :max="Math.max(0, tracks - 2)"
          :step="1"
          :digits="0"
          label="May leave out so many tracks"
          :send="(leave_out) => put({ leave_out })"
        />
        <span class="soft">of {{ tracks }}</span></label
      >
      <div class="line">
        <label
          ><Switch
            size="small"
            :checked="library !== null"
            aria-label="The library may be used"
            @change="(on) => (library = on ? { search: '', list_id: null } : null)"
          />
          May take in</label
        >
        <ScopePicker v-if="library" v-model:list="list" v-model:search="search" label="From where" />
      </div>
    </template>
  </form>
</template>

<style scoped>
.wishes {
  display: flex;
  flex-direction: column;
  gap: 6px;
}

h3 {
  margin: 8px 0 0;
  color: var(--ink-soft);
  font-size: 12.5px;
  font-weight: 600;
}

h3:first-child {
  margin-top: 0;
}

.weight {
  display: grid;
  grid-template-columns: minmax(0, 1fr) max-content;
  gap: 0 8px;
  font-size: 13px;
}

.slider {
  grid-column: 1 / -1;
  margin: 1px 6px 4px;
}

.word {
  font-size: 12px;
}

.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  min-height: 28px;
  font-size: 13px;
}

.short {
  width: 66px;
}

.line > span:first-child {
  flex: 1;
}

.more {
  align-self: flex-start;
  padding: 2px 0;
  border: 0;
  background: none;
  color: var(--fern);
  font: inherit;
  font-size: 13px;
  text-decoration: underline;
  cursor: pointer;
}
</style>
