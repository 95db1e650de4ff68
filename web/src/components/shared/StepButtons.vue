<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import GlyphIcon from './GlyphIcon.vue'
import { keyFor } from '../../composables/page/useKeys'

/** From one thing to the next, and which of how many is looked at; `at` is -1 where none is. */
defineProps<{ what: string; at: number; count: number }>()
const emit = defineEmits<{ step: [by: 1 | -1] }>()
</script>

<template>
  <Tooltip :title="`Previous ${what} (${keyFor('p')})`">
    <Button :aria-label="`Previous ${what}`" :disabled="!count || at === 0" @click="emit('step', -1)"
      ><GlyphIcon name="left"
    /></Button>
  </Tooltip>
  <span class="number">{{ at < 0 ? count : `${at + 1} of ${count}` }}</span>
  <Tooltip :title="`Next ${what} (${keyFor('n')})`">
    <Button :aria-label="`Next ${what}`" :disabled="!count || at === count - 1" @click="emit('step', 1)"
      ><GlyphIcon name="right"
    /></Button>
  </Tooltip>
</template>

<style scoped>
.number {
  min-width: 50px;
  text-align: center;
  white-space: nowrap;
}
</style>
