<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { useRouter } from 'vue-router'
import { useImport } from '../../composables/useImport'

const { add } = useImport()
const router = useRouter()

const { isOverDropZone } = useDropZone(() => document.body, {
  onDrop: (files) => {
    if (!files?.length) return
    add(files)
    void router.push({ name: 'tracks' })
  },
  dataTypes: (types) => types.length === 0 || !types.every((t) => t.startsWith('text/')),
  preventDefaultForUnhandled: true,
})
</script>

<template>
  <div v-if="isOverDropZone" class="drop">
    <p>Let go to bring these files into the library</p>
  </div>
</template>

<style scoped>
.drop {
  position: fixed;
  inset: 10px;
  z-index: 50;
  display: grid;
  place-items: center;
  border: 2px dashed var(--fern);
  border-radius: 12px;
  background: var(--veil);
  color: var(--fern);
  font-size: 22px;
  pointer-events: none;
}
</style>
