<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import GlyphIcon from './GlyphIcon.vue'
import { keyFor } from '../../composables/page/useKeys'

/** Larger, smaller, and the whole of what is looked at. */
defineProps<{ whole: string }>()
const emit = defineEmits<{ zoom: [factor: number]; fit: [] }>()
</script>

<template>
  <Tooltip :title="`Smaller (${keyFor('-')})`"
    ><Button size="small" aria-label="Zoom out" @click="emit('zoom', 1 / 1.5)"
      ><GlyphIcon name="minus" /></Button
  ></Tooltip>
  <Tooltip :title="`Larger (${keyFor('+')})`"
    ><Button size="small" aria-label="Zoom in" @click="emit('zoom', 1.5)"><GlyphIcon name="plus" /></Button
  ></Tooltip>
  <Tooltip :title="`${whole} (${keyFor('0')})`"
    ><Button size="small" @click="emit('fit')">Fit</Button></Tooltip
  >
</template>
