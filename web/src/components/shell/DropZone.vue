<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { useRouter } from 'vue-router'
import { useBundleOpening } from '../../composables/export/useBundles'
import { useImport } from '../../composables/library/useImport'
import { useDropTaker } from '../../composables/page/useDropTaker'

const { add } = useImport()
const { bring } = useBundleOpening()
const taker = useDropTaker()
const router = useRouter()

const { isOverDropZone } = useDropZone(() => document.body, {
  onDrop: (files, event) => {
    const bundle = files?.find((f) => f.name.toLowerCase().endsWith('.zip'))
    const audio = files?.filter((f) => f !== bundle) ?? []
    if (bundle) void bring(bundle)
    if (!audio.length) return
    const put = taker.value?.at(event)
    const arrived = add(audio)
    if (put) void arrived.then((tracks) => tracks.length && put(tracks))
    else void router.push({ name: 'tracks' })
  },
  dataTypes: (types) => types.length === 0 || !types.every((t) => t.startsWith('text/')),
  preventDefaultForUnhandled: true,
})
</script>

<template>
  <div v-if="isOverDropZone" class="drop">
    <p>{{ taker?.words() ?? 'Let go to bring these files into the library, or to open a bundle' }}</p>
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

/* What is below the veil must not be read with it. */
.drop p {
  padding: 10px 20px;
  border-radius: var(--radius);
  background: var(--sheet);
}
</style>
