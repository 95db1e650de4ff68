<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useTemplateRef } from 'vue'

/** A button that asks for one file of a kind. */
defineProps<{ accept: string; label: string; disabled?: boolean; primary?: boolean }>()
const emit = defineEmits<{ choose: [file: File] }>()
const field = useTemplateRef<HTMLInputElement>('field')

function chosen() {
  const file = field.value?.files?.[0]
  if (field.value) field.value.value = ''
  if (file) emit('choose', file)
}
</script>

<template>
  <Button size="small" :type="primary ? 'primary' : 'default'" :disabled="disabled" @click="field?.click()">{{
    label
  }}</Button>
  <input
    ref="field"
    class="visually-hidden"
    type="file"
    :accept="accept"
    :aria-label="label.replace('…', '')"
    tabindex="-1"
    @change="chosen"
  />
</template>
