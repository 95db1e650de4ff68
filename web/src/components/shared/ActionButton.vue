<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import { keyFor } from '../../composables/page/useKeys'
import type { GridAction } from '../../composables/track/useGridActions'

/** A button for a grid action: its words, unless others are given, and its key. */
const { action, label } = defineProps<{ action: GridAction; label?: string; disabled?: boolean }>()
</script>

<template>
  <Tooltip :title="`${action.label} (${keyFor(action.key)})`">
    <Button size="small" :aria-label="action.label" :disabled="disabled" @click="action.run()">
      {{ label ?? action.label }}
    </Button>
  </Tooltip>
</template>
