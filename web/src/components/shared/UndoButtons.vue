<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import GlyphIcon from './GlyphIcon.vue'

/** Undo and redo, saying what they would do; null where there is nothing. */
defineProps<{ undo: string | null | undefined; redo: string | null | undefined }>()
defineEmits<{ undo: []; redo: [] }>()
</script>

<template>
  <Tooltip :title="undo ? `Undo: ${undo}` : 'Nothing to undo'" placement="bottomRight">
    <Button aria-label="Undo" :disabled="!undo" @click="$emit('undo')"><GlyphIcon name="undo" /> Undo</Button>
  </Tooltip>
  <Tooltip :title="redo ? `Redo: ${redo}` : 'Nothing to redo'" placement="bottomRight">
    <Button aria-label="Redo" :disabled="!redo" @click="$emit('redo')"><GlyphIcon name="redo" /></Button>
  </Tooltip>
</template>
