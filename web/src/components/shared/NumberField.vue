<script setup lang="ts">
import { InputNumber } from 'ant-design-vue'
import { onMounted, ref, useTemplateRef, watch, type ComponentPublicInstance } from 'vue'

/** A number that is sent when it is done: on Enter, on leaving the field, on a step; typing alone sends nothing. */
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

const shown = ref<number | null>(props.value)
/** What was sent and has not come back as the value: leaving the field after Enter does not send it twice. */
let sent: number | null = null
watch(
  () => props.value,
  (value) => {
    shown.value = value
    sent = null
  },
)

async function commit() {
  const wanted = shown.value
  // What goes back while something else is on its way is a change as well.
  if (wanted === (sent ?? props.value)) return
  if (typeof wanted !== 'number' || !Number.isFinite(wanted)) {
    shown.value = props.value
    return
  }
  sent = wanted
  if (await props.send(wanted)) return
  shown.value = props.value
  sent = null
}

function entered(event: Event) {
  void commit()
  leave(event)
}

/** Leave the field: the keys of the view are meant again. */
function leave(event: Event) {
  ;(event.target as HTMLElement).blur()
}

function restored(event: KeyboardEvent) {
  shown.value = props.value
  event.stopPropagation()
  leave(event)
}

/** Keys that write something else than a number write nothing. */
function onlyNumbers(event: KeyboardEvent) {
  const types = event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey
  if (types && !/[-+\d.,−]/.test(event.key)) event.preventDefault()
}

function stepped(value: unknown) {
  shown.value = Number(value)
  void commit()
}

/** The small buttons say what they change: the component library calls them all the same. */
const field = useTemplateRef<ComponentPublicInstance>('field')
onMounted(() => {
  const box = field.value?.$el as HTMLElement | undefined
  const input = box?.querySelector('input')
  const name = props.label ?? input?.labels?.[0]?.textContent?.trim() ?? ''
  for (const [way, word] of [
    ['up', 'more'],
    ['down', 'less'],
  ] as const)
    // prettier-ignore
    box?.querySelector(`.ant-input-number-handler-${way}`)?.setAttribute('aria-label', `${name}: ${word}`)
})
</script>

<template>
  <InputNumber
    ref="field"
    :value="shown ?? undefined"
    size="small"
    :step="step"
    :min="min"
    :max="max"
    :aria-label="label"
    :controls="!bare"
    :formatter="(v) => (v === '' || v === undefined ? '' : String(Number(Number(v).toFixed(digits ?? 2))))"
    @update:value="(v) => (shown = typeof v === 'number' ? v : null)"
    @press-enter="entered"
    @keydown.escape="restored"
    @keydown="onlyNumbers"
    @blur="commit"
    @step="stepped"
  />
</template>
