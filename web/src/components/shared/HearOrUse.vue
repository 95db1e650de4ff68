<script setup lang="ts">
import { Button } from 'ant-design-vue'
import GlyphIcon from './GlyphIcon.vue'

/** What can be done to something that is proposed: it is heard first, then used. */
defineProps<{ name: string }>()
const emit = defineEmits<{ hear: []; use: [] }>()
</script>

<template>
  <Button size="small" :aria-label="`Hear ${name}`" title="Hear it; nothing is changed" @click="emit('hear')"
    ><GlyphIcon name="play" :size="11"
  /></Button>
  <Button size="small" :aria-label="`Use ${name}`" @click="emit('use')">Use</Button>
</template>
