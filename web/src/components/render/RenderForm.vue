<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Format, OutputFormat, Plan, RenderWish, What } from '../../api/types'
import { usePaces } from '../../composables/export/useRenders'
import { useFormats } from '../../composables/page/useTables'
import { clockTime, megabytes } from '../../time/format'
import NumberField from '../shared/NumberField.vue'
import PickField from '../shared/PickField.vue'
import TextField from '../shared/TextField.vue'

/** What a mix is rendered to: all of it or what of it, the kind of file, its rate and its level. */
const props = defineProps<{ plan: Plan }>()
const emit = defineEmits<{ render: [wish: RenderWish]; hear: [] }>()

const AS_IT_IS = 0
const LEVELS = [
  { value: AS_IT_IS, label: 'as in the mix' },
  { value: -14, label: 'to −14 LUFS (streaming)' },
  { value: -16, label: 'to −16 LUFS (podcasts)' },
  { value: -9, label: 'to −9 LUFS (clubs)' },
]
const RATES = [
  { value: 44100, label: '44.1 kHz' },
  { value: 48000, label: '48 kHz (video)' },
]
const WHOLE = 'mix'
const A_PART = 'part'
const MANY: string[] = ['teaser', 'tracks', 'lanes'] satisfies What[]
const TEASER_S = 30
const AROUND_S = 15

const { data: formats } = useFormats()
const { data: paces } = usePaces()
const picked = ref<OutputFormat>()
const rate = ref(44100)
const level = ref(AS_IT_IS)
const ceiling = ref(-1)
const part = ref<string>(WHOLE)
const from = ref(0)
const to = ref(0)
const byStem = ref(false)
const curves = ref(true)
const artist = useLocalStorage('fernbrook-artist', '')

const what = computed<What>(() => (MANY.includes(part.value) ? (part.value as What) : 'mix'))
const lanes = computed(() => what.value === 'lanes')
const SUITS: Record<What, (f: Format) => boolean> = {
  mix: () => true,
  teaser: () => true,
  tracks: (f) => !f.is_video,
  lanes: (f) => f.is_lossless,
}
const suitable = computed(() => formats.value?.filter(SUITS[what.value]) ?? [])
const chosen = computed(() => suitable.value.find((f) => f.id === picked.value) ?? suitable.value[0])
const parts = computed(() => [
  { value: WHOLE, label: 'whole mix, one file' },
  { value: 'tracks', label: 'one file a track, without gaps' },
  ...(props.plan.transitions.length
    ? [{ value: 'teaser', label: 'a teaser: the best of each transition' }]
    : []),
  { value: 'lanes', label: 'lanes for an audio editor' },
  { value: A_PART, label: 'from … to …' },
  ...props.plan.transitions.map((t) => ({
    value: String(t.index),
    label: `${props.plan.entries[t.index]!.title} → ${props.plan.entries[t.index + 1]!.title}`,
  })),
])
const span = computed(() => {
  if (part.value === WHOLE || MANY.includes(part.value)) return undefined
  if (part.value === A_PART) return { start_s: from.value, end_s: to.value || props.plan.duration_s }
  const t = props.plan.transitions[Number(part.value)]!
  return {
    start_s: Math.max(0, t.start_s - AROUND_S),
    end_s: Math.min(props.plan.duration_s, t.end_s + AROUND_S),
  }
})
const seconds = computed(() => {
  if (what.value === 'teaser')
    return Math.min(props.plan.duration_s, TEASER_S * props.plan.transitions.length)
  return span.value ? Math.max(0, span.value.end_s - span.value.start_s) : props.plan.duration_s
})
const passes = computed(() => (level.value === AS_IT_IS || lanes.value ? 1 : 2))
const sizeOf = (f: Format) => megabytes(seconds.value * f.bytes_per_second)
function timeOf(f: Format) {
  const pace = lanes.value ? paces.value?.lanes : paces.value?.files[f.id]
  return pace ? `about ${clockTime((seconds.value * passes.value) / pace)}` : ''
}

const ABOUT: Record<What, string> = {
  mix: 'The file carries the name of the mix, its tracks as chapters, and its cover.',
  teaser: 'Half a minute of each transition in order, faded into each other.',
  tracks:
    'A ZIP with a file for each track, split where it takes over, and a play list. MP3 and AAC add a few milliseconds at each join: choose FLAC, WAV, Ogg or Opus to play it without a gap.',
  lanes:
    'A ZIP with a file for each track and layer, all from zero and equally long, the click, the tempo map as MIDI, markers, and a timeline for editors.',
}

const within = (value: number) => Math.min(Math.max(0, value), props.plan.duration_s)
const used = Promise.resolve(true)
function setFrom(value: number) {
  from.value = within(value)
  return used
}
function setTo(value: number) {
  to.value = within(value)
  return used
}
function setCeiling(value: number) {
  ceiling.value = value
  return used
}

function render() {
  if (!chosen.value) return
  emit('render', {
    output: chosen.value.id,
    what: what.value,
    rate: rate.value as 44100 | 48000,
    loudness_lufs: level.value === AS_IT_IS ? null : level.value,
    ceiling_dbtp: ceiling.value,
    start_s: span.value?.start_s ?? null,
    end_s: span.value?.end_s ?? null,
    by_stem: byStem.value,
    curves: curves.value,
    artist: artist.value,
  })
}
</script>

<template>
  <div class="form">
    <div class="options what">
      <label for="render-part">What</label>
      <PickField id="render-part" v-model:value="part" :options="parts" />
      <template v-if="part === A_PART">
        <label for="render-from">From second</label>
        <NumberField id="render-from" :value="from" :step="10" :min="0" :send="setFrom" />
        <label for="render-to">To second</label>
        <NumberField
          id="render-to"
          :value="to || Math.round(plan.duration_s)"
          :step="10"
          :min="0"
          :send="setTo"
        />
      </template>
    </div>
    <fieldset class="formats">
      <legend class="visually-hidden">File format</legend>
      <label v-for="f in suitable" :key="f.id" class="format" :class="{ picked: f.id === chosen?.id }">
        <input
          type="radio"
          name="format"
          :value="f.id"
          :checked="f.id === chosen?.id"
          @change="picked = f.id"
        />
        <strong>{{ f.label }}</strong>
        <span class="soft hint">{{ f.hint }}</span>
        <span class="soft size">{{ lanes ? '' : sizeOf(f) }}</span>
        <span class="soft time">{{ timeOf(f) }}</span>
      </label>
      <p v-if="paces?.beside" class="soft">
        These times are for it alone:
        {{ paces.beside === 1 ? 'one other job runs' : `${paces.beside} other jobs run` }} before or beside
        it.
      </p>
    </fieldset>
    <div class="options settings">
      <template v-if="lanes">
        <span>Lanes</span>
        <span class="ticks">
          <label><input v-model="curves" type="checkbox" /> faded and turned as in the mix</label>
          <label><input v-model="byStem" type="checkbox" /> one for each stem, where there are any</label>
        </span>
      </template>
      <template v-else>
        <label for="render-level">Level</label>
        <PickField id="render-level" v-model:value="level" :options="LEVELS" />
        <label for="render-ceiling">Peaks below, dBTP</label>
        <NumberField
          id="render-ceiling"
          :value="ceiling"
          :step="0.5"
          :min="-12"
          :max="0"
          :send="setCeiling"
        />
      </template>
      <label for="render-rate">Rate</label>
      <PickField id="render-rate" v-model:value="rate" :options="RATES" />
      <template v-if="!lanes">
        <span>Artist of the mix</span>
        <TextField
          :value="artist"
          label="Artist of the mix"
          placeholder="your name, for the tags of the file"
          :longest="200"
          @send="(name) => (artist = name)"
        />
      </template>
    </div>
    <p class="soft about">
      {{ clockTime(seconds) }} of music. {{ ABOUT[what]
      }}{{ passes === 2 ? ' It is rendered twice, first to measure it.' : '' }}
    </p>
    <div class="go">
      <Button type="primary" size="large" :disabled="!chosen || seconds <= 0" @click="render"
        >Render {{ chosen?.label }}</Button
      >
      <Button size="large" @click="emit('hear')">Hear the whole mix</Button>
    </div>
  </div>
</template>

<style scoped>
.formats {
  margin: 0 0 12px;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

.format {
  display: grid;
  grid-template-columns: 20px 136px 1fr 64px 92px;
  align-items: baseline;
  gap: 8px;
  padding: 3px 12px;
  cursor: pointer;
}

.format + .format {
  border-top: 1px solid var(--line);
}

.format.picked {
  background: var(--fern-soft);
}

.size,
.time {
  text-align: right;
  white-space: nowrap;
}

.what {
  margin-bottom: 10px;
}

.ticks {
  display: grid;
}

.options {
  display: grid;
  grid-template-columns: max-content minmax(0, 320px);
  align-items: center;
  gap: 6px 10px;
}

.settings {
  grid-template-columns: max-content minmax(0, 1fr) max-content minmax(0, 1fr);
}

.settings .ticks {
  grid-column: 2 / -1;
}

@media (max-width: 1150px) {
  .settings {
    grid-template-columns: max-content minmax(0, 320px);
  }
}

.about {
  margin: 8px 0;
}

.go {
  display: flex;
  gap: 8px;
}
</style>
