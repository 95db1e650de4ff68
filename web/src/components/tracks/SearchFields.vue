<script setup lang="ts">
import { Button, Input, InputNumber, Popover, Segmented } from 'ant-design-vue'
import { computed, useTemplateRef } from 'vue'
import { fieldOf, hasWord, rangeOf, rangeText, withField, withWord } from '../../library/searchText'
import GlyphIcon from '../shared/GlyphIcon.vue'
import PickField from '../shared/PickField.vue'

/** The search as one types it, and the same with controls that one can click. */
const { problem } = defineProps<{ problem: string | undefined }>()
const search = defineModel<string>('search', { required: true })

const box = useTemplateRef<{ focus: () => void }>('box')
defineExpose({ focus: () => box.value?.focus() })

const RANGES = [
  { name: 'bpm', label: 'BPM', step: 1 },
  { name: 'energy', label: 'Energy', step: 1 },
  { name: 'year', label: 'Year', step: 1 },
]
const VOICES = [
  { value: '', label: 'Either' },
  { value: 'instrumental', label: 'Instrumental' },
  { value: 'voice', label: 'With voice' },
]
const KEYS = ['', 'C', 'G', 'D', 'A', 'E', 'B', 'F#', 'Db', 'Ab', 'Eb', 'Bb', 'F'].map((k) => ({ value: k, label: k || 'any' })) // prettier-ignore
const MINORS = ['Am', 'Em', 'Bm', 'F#m', 'C#m', 'G#m', 'Ebm', 'Bbm', 'Fm', 'Cm', 'Gm', 'Dm'].map((k) => ({ value: k, label: k })) // prettier-ignore
const DOUBTS = [
  { value: '', label: 'whatever the file' },
  { value: 'any', label: 'any doubt' },
  { value: 'low-bit-rate', label: 'low bit rate' },
  { value: 'upscaled', label: 'lossy made lossless' },
  { value: 'clipped', label: 'clipped' },
  { value: 'mono', label: 'mono' },
  { value: 'odd-rate', label: 'unusual sample rate' },
  { value: 'offset', label: 'offset from zero' },
  { value: 'silence', label: 'long silence' },
  { value: 'twice', label: 'here twice' },
  { value: 'missing', label: 'missing' },
]
const WORDS = ['checked', 'cued', 'tagged', 'used', 'steady']

const voice = computed({
  get: () => VOICES.slice(1).find((v) => hasWord(search.value, v.value))?.value ?? '',
  set: (word) => {
    const rest = VOICES.slice(1).reduce((text, v) => withWord(text, v.value, false), search.value)
    search.value = word ? withWord(rest, word, true) : rest
  },
})
const field = (name: string) =>
  computed({
    get: () => fieldOf(search.value, name) ?? '',
    set: (value: string) => (search.value = withField(search.value, name, value || undefined)),
  })
const fits = field('fits')
const doubt = field('doubt')

const ends = (name: string) => rangeOf(fieldOf(search.value, name))
function setEnd(name: string, end: 'low' | 'high', value: unknown) {
  const now = { ...ends(name), [end]: typeof value === 'number' ? value : undefined }
  search.value = withField(search.value, name, rangeText(now.low, now.high))
}
</script>

<template>
  <div class="search">
    <Input
      ref="box"
      v-model:value="search"
      placeholder="Search: words, bpm:118-122 fits:Am tag:dub -voice"
      aria-label="Search tracks"
      allow-clear
      :status="problem ? 'warning' : undefined"
      :spellcheck="false"
    >
      <template #prefix><GlyphIcon name="search" /></template>
    </Input>
    <Popover trigger="click" placement="bottomRight" title="Show only">
      <template #content>
        <div class="fields">
          <template v-for="r in RANGES" :key="r.name">
            <span>{{ r.label }}</span>
            <span class="ends">
              <InputNumber
                size="small"
                :value="ends(r.name).low"
                :step="r.step"
                :min="0"
                :aria-label="`${r.label} from`"
                placeholder="from"
                @update:value="(v) => setEnd(r.name, 'low', v)"
              />
              <InputNumber
                size="small"
                :value="ends(r.name).high"
                :step="r.step"
                :min="0"
                :aria-label="`${r.label} to`"
                placeholder="to"
                @update:value="(v) => setEnd(r.name, 'high', v)"
              />
            </span>
          </template>
          <span>Fits the key</span>
          <PickField v-model:value="fits" :options="[...KEYS, ...MINORS]" label="Fits the key" />
          <span>Voice</span>
          <Segmented v-model:value="voice" :options="VOICES" size="small" aria-label="Voice" />
          <span>File</span>
          <PickField v-model:value="doubt" :options="DOUBTS" label="Doubt about the file" />
          <span>Only</span>
          <span class="words">
            <button
              v-for="word in WORDS"
              :key="word"
              type="button"
              :aria-pressed="hasWord(search, word)"
              @click="search = withWord(search, word, !hasWord(search, word))"
            >
              {{ word }}
            </button>
          </span>
        </div>
      </template>
      <Button aria-haspopup="dialog">Filter</Button>
    </Popover>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.search {
  position: relative;
  display: flex;
  flex: 1 1 420px;
  gap: 6px;
  min-width: 250px;
  max-width: 520px;
}

.fields {
  display: grid;
  grid-template-columns: auto auto;
  align-items: center;
  gap: 8px 14px;
}

.ends {
  display: flex;
  gap: 6px;
}

.ends > * {
  width: 92px;
}

.words {
  display: flex;
  gap: 4px;
}

.words button {
  padding: 0 7px;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 13px;
  cursor: pointer;
}

.words button[aria-pressed='true'] {
  border-color: var(--fern);
  background: var(--fern-soft);
}

.problem {
  position: absolute;
  z-index: 5;
  top: 34px;
  left: 0;
  max-width: 460px;
  margin: 0;
  padding: 4px 10px;
  border: 1px solid var(--line-strong);
  border-radius: 4px;
  background: var(--warn-soft);
  color: var(--warn);
  font-size: 13px;
}
</style>
