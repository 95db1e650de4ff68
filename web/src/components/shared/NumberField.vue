<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { Gesture } from '../../stores/gesture'

/** A button that is held steps again after the first of these, then after each of the second. */
const HELD_MS = [450, 110] as const

/**
 * A number that is sent when it is done: on Enter, on leaving the field, on a step; typing alone sends nothing. Steps
 * count from what was asked for last, also while that is on its way.
 */
const props = defineProps<{
  value: number
  step: number
  min: number
  max?: number
  label?: string
  /** Digits that are shown after the point, two without. */
  digits?: number
  /** Too narrow for small buttons of its own: the arrow keys step. */
  bare?: boolean
  /** Use a number; false when it was refused. */
  send: (value: number) => Promise<boolean>
}>()

/** What is typed and not yet done. */
const typed = ref<string>()
/** What was asked for and has not come back as the value, the newest last. */
const asked = ref<number[]>([])
watch(
  () => props.value,
  (value) => {
    typed.value = undefined
    // The answer to an earlier step leaves the later ones as they are.
    asked.value = asked.value.includes(value) ? asked.value.slice(asked.value.indexOf(value) + 1) : []
  },
)

const wanted = computed(() => asked.value[asked.value.length - 1] ?? props.value)
const shown = computed(() => typed.value ?? textOf(wanted.value))

const textOf = (value: number) => String(Number(value.toFixed(props.digits ?? 2))).replace('-', '−')
/** A number as people write it, in the signs that a machine reads. */
const plain = (text: string) => text.replace('−', '-').replace(',', '.').trim()
const within = (value: number) => Math.min(props.max ?? Infinity, Math.max(props.min, value))

/** Steps in a row are one change. */
const gesture = new Gesture()

async function ask(value: number) {
  // What goes back while something else is on its way is a change as well.
  if (value === wanted.value) return
  asked.value = [...asked.value, value]
  if (!(await gesture.send(() => props.send(value)))) asked.value = asked.value.filter((v) => v !== value)
}

function commit() {
  const text = typed.value && plain(typed.value)
  typed.value = undefined
  if (!text || !Number.isFinite(Number(text)) || text === plain(textOf(wanted.value))) return
  gesture.end()
  gesture.press()
  void ask(within(Number(text)))
}

function stepBy(way: number) {
  commit()
  gesture.press()
  void ask(within(Number((wanted.value + way * props.step).toFixed(6))))
}

/** Leave the field: the keys of the view are meant again. */
const leave = (event: Event) => (event.target as HTMLElement).blur()

function key(event: KeyboardEvent) {
  const ways: Record<string, number> = { ArrowUp: 1, ArrowDown: -1 }
  const types = event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey
  if (event.key in ways) stepBy(ways[event.key]! * (event.shiftKey ? 10 : 1))
  else if (event.key === 'Enter') {
    commit()
    leave(event)
  } else if (event.key === 'Escape') {
    typed.value = undefined
    event.stopPropagation()
    leave(event)
  } else if (!types || /[-+\d.,−]/.test(event.key)) return
  // Keys that write something else than a number write nothing.
  event.preventDefault()
}

let timer = 0
function hold(way: number, after: number = HELD_MS[0]) {
  stepBy(way)
  timer = window.setTimeout(() => hold(way, HELD_MS[1]), after)
}
const letGo = () => window.clearTimeout(timer)
useEventListener(window, ['pointerup', 'pointercancel', 'blur'], letGo)

/** A click that no pointer made: by what reads the page aloud. */
const click = (way: number, event: MouseEvent) => event.detail === 0 && stepBy(way)

/** The small buttons say what they change: by the label given, or the one that stands beside the field. */
const input = useTemplateRef<HTMLInputElement>('input')
const name = ref(props.label ?? '')
onMounted(() => (name.value ||= input.value?.labels?.[0]?.textContent?.trim() ?? ''))

defineOptions({ inheritAttrs: false })
</script>

<template>
  <span class="number-field" :class="$attrs.class" :style="$attrs.style as string">
    <input
      v-bind="{ ...$attrs, class: undefined, style: undefined }"
      ref="input"
      type="text"
      inputmode="decimal"
      role="spinbutton"
      autocomplete="off"
      :value="shown"
      :aria-label="label"
      :aria-valuenow="wanted"
      :aria-valuemin="min"
      :aria-valuemax="max"
      @input="typed = ($event.target as HTMLInputElement).value"
      @keydown="key"
      @blur="commit"
    />
    <span v-if="!bare" class="steps">
      <button
        v-for="[way, word] in [
          [1, 'more'],
          [-1, 'less'],
        ] as const"
        :key="word"
        type="button"
        tabindex="-1"
        :class="word"
        :aria-label="`${name}: ${word}`"
        :disabled="way > 0 ? wanted >= (max ?? Infinity) : wanted <= min"
        @pointerdown.prevent="(e) => e.button === 0 && hold(way)"
        @pointerleave="letGo"
        @click="(e) => click(way, e)"
      />
    </span>
  </span>
</template>

<style scoped>
.number-field {
  position: relative;
  display: inline-block;
  width: 90px;
  height: 24px;
  border: 1px solid var(--line-strong);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font-variant-numeric: tabular-nums;
  line-height: 22px;
  vertical-align: middle;
}

.number-field:hover,
.number-field:focus-within {
  border-color: var(--fern);
}

.number-field:focus-within {
  box-shadow: 0 0 0 2px var(--fern-soft);
}

input {
  display: block;
  width: 100%;
  height: 22px;
  padding: 0 7px;
  border: 0;
  border-radius: inherit;
  outline: none;
  background: none;
  color: inherit;
  font: inherit;
  text-align: inherit;
}

.steps {
  position: absolute;
  top: 0;
  right: 0;
  bottom: 0;
  display: none;
  width: 18px;
  border-left: 1px solid var(--line);
  border-radius: 0 4px 4px 0;
  background: var(--sheet);
}

.number-field:hover .steps {
  display: block;
}

.steps button {
  position: absolute;
  right: 0;
  left: 0;
  height: 50%;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink-soft);
  cursor: pointer;
}

.steps button:disabled {
  opacity: 0.3;
  cursor: default;
}

.steps .less {
  bottom: 0;
}

/* A small chevron. */
.steps button::before {
  position: absolute;
  top: 50%;
  left: 50%;
  width: 5px;
  height: 5px;
  border: solid currentcolor;
  border-width: 1px 0 0 1px;
  content: '';
  transform: translate(-50%, -25%) rotate(45deg);
}

.steps .less::before {
  transform: translate(-50%, -75%) rotate(225deg);
}

.steps button:not(:disabled):hover {
  color: var(--fern);
}
</style>
