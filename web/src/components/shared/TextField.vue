<script setup lang="ts">
import { Input } from 'ant-design-vue'

/** A line of text that is sent when it is done: on Enter and on leaving the field; typing alone sends nothing. */
const {
  value,
  label,
  longest = 60,
} = defineProps<{
  value: string
  label: string
  placeholder?: string
  longest?: number
  /** Whether it may have several lines. */
  long?: boolean
}>()
const emit = defineEmits<{ send: [text: string] }>()

function send(event: Event) {
  const text = (event.target as HTMLInputElement).value.trim()
  if (text !== value) emit('send', text)
}
</script>

<template>
  <Input.TextArea
    v-if="long"
    :key="`long ${value}`"
    :value="value"
    :maxlength="longest"
    :auto-size="{ minRows: 1, maxRows: 4 }"
    :placeholder="placeholder"
    :aria-label="label"
    @blur="send"
  />
  <Input
    v-else
    :key="value"
    size="small"
    :value="value"
    :maxlength="longest"
    :placeholder="placeholder"
    :aria-label="label"
    @blur="send"
    @press-enter="(e) => (e.target as HTMLInputElement).blur()"
  />
</template>
