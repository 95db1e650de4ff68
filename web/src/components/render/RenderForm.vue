<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { OutputFormat, Plan, RenderWish } from '../../api/types'
import { useFormats } from '../../composables/useTables'
import { clockTime, megabytes } from '../../time/format'
import NumberField from '../shared/NumberField.vue'
import PickField from '../shared/PickField.vue'

/** What a mix is rendered to: the kind of file, its rate, its level, and which part of the mix. */
const props = defineProps<{ plan: Plan }>()
const emit = defineEmits<{ render: [wish: RenderWish]; hear: [] }>()

const AS_IT_IS = 0
const LEVELS = [
  { value: AS_IT_IS, label: 'as the mix has it' },
  { value: -14, label: 'to −14 LUFS (streaming)' },
  { value: -16, label: 'to −16 LUFS (podcasts)' },
  { value: -9, label: 'to −9 LUFS (clubs)' },
]
const RATES = [
  { value: 44100, label: '44.1 kHz' },
  { value: 48000, label: '48 kHz (video)' },
]
const WHOLE = 'whole'
const A_PART = 'part'

const { data: formats } = useFormats()
const picked = ref<OutputFormat>()
const rate = ref(44100)
const level = ref(AS_IT_IS)
const ceiling = ref(-1)
const part = ref<string>(WHOLE)
const from = ref(0)
const to = ref(0)

const output = computed(() => picked.value ?? formats.value?.[0]?.id)
const chosen = computed(() => formats.value?.find((f) => f.id === output.value))
const parts = computed(() => [
  { value: WHOLE, label: 'all of it' },
  ...props.plan.transitions.map((t) => ({
    value: String(t.index),
    label: `${props.plan.entries[t.index]!.title} → ${props.plan.entries[t.index + 1]!.title}`,
  })),
  { value: A_PART, label: 'from … to …' },
])
const AROUND_S = 15
const span = computed(() => {
  if (part.value === WHOLE) return undefined
  if (part.value === A_PART) return { start_s: from.value, end_s: to.value || props.plan.duration_s }
  const t = props.plan.transitions[Number(part.value)]!
  return {
    start_s: Math.max(0, t.start_s - AROUND_S),
    end_s: Math.min(props.plan.duration_s, t.end_s + AROUND_S),
  }
})
const seconds = computed(() =>
  span.value ? Math.max(0, span.value.end_s - span.value.start_s) : props.plan.duration_s,
)
const sizeOf = (bytes: number) => megabytes(seconds.value * bytes)

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
  if (!output.value) return
  emit('render', {
    output: output.value,
    rate: rate.value as 44100 | 48000,
    loudness_lufs: level.value === AS_IT_IS ? null : level.value,
    ceiling_dbtp: ceiling.value,
    start_s: span.value?.start_s ?? null,
    end_s: span.value?.end_s ?? null,
  })
}
</script>

<template>
  <div class="form">
    <fieldset class="formats">
      <legend class="visually-hidden">File format</legend>
      <label v-for="f in formats" :key="f.id" class="format" :class="{ picked: f.id === output }">
        <input v-model="picked" type="radio" name="format" :value="f.id" :checked="f.id === output" />
        <strong>{{ f.label }}</strong>
        <span class="soft hint">{{ f.hint }}</span>
        <span class="soft size">{{ sizeOf(f.bytes_per_second) }}</span>
      </label>
    </fieldset>
    <div class="options">
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
      <label for="render-level">Level</label>
      <PickField id="render-level" v-model:value="level" :options="LEVELS" />
      <label for="render-ceiling">Peaks below, dBTP</label>
      <NumberField id="render-ceiling" :value="ceiling" :step="0.5" :min="-12" :max="0" :send="setCeiling" />
      <label for="render-rate">Rate</label>
      <PickField id="render-rate" v-model:value="rate" :options="RATES" />
    </div>
    <p class="soft about">
      {{ clockTime(seconds) }} of music. The file carries the name of the mix, its tracks as chapters, and a
      cover made of its course{{ level === AS_IT_IS ? '' : '; it is rendered twice, first to measure it' }}.
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
  grid-template-columns: 20px 130px 1fr max-content;
  align-items: baseline;
  gap: 8px;
  padding: 4px 12px;
  cursor: pointer;
}

.format + .format {
  border-top: 1px solid var(--line);
}

.format.picked {
  background: var(--fern-soft);
}

.format input {
  accent-color: var(--fern);
}

.options {
  display: grid;
  grid-template-columns: max-content minmax(0, 260px);
  align-items: center;
  gap: 6px 14px;
}

.about {
  margin: 12px 0;
}

.go {
  display: flex;
  gap: 8px;
}
</style>
