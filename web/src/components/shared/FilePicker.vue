<script setup lang="ts">
import { useTemplateRef } from 'vue'
import { useImport } from '../../composables/library/useImport'

/** Brings audio files in: `pick`, given to what is slotted, asks the user which. */
const arriving = useImport()
const picker = useTemplateRef<HTMLInputElement>('picker')

function picked() {
  arriving.add([...(picker.value?.files ?? [])])
  if (picker.value) picker.value.value = ''
}
</script>

<template>
  <slot :pick="() => picker?.click()" />
  <input
    ref="picker"
    class="visually-hidden"
    type="file"
    multiple
    accept="audio/*,.flac,.opus,.aiff,.aif,.m4a"
    aria-label="Audio files"
    tabindex="-1"
    @change="picked"
  />
</template>
