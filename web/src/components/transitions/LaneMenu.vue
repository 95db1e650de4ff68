<script setup lang="ts">
import { Dropdown, Menu, MenuItem } from 'ant-design-vue'
import type { Control, ControlSpec } from '../../api/types'
import { keyFor } from '../../composables/page/useKeys'

/** One more lane, of those that are not shown. */
defineProps<{ lanes: readonly ControlSpec[] }>()
const emit = defineEmits<{ open: [control: Control] }>()
</script>

<template>
  <Dropdown :trigger="['click']">
    <button type="button" class="open" :title="`Show one more lane (${keyFor('a')})`">+ lane</button>
    <template #overlay>
      <Menu>
        <MenuItem v-for="spec in lanes" :key="spec.control" @click="emit('open', spec.control)">{{
          spec.label
        }}</MenuItem>
      </Menu>
    </template>
  </Dropdown>
</template>

<style scoped>
.open {
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink-soft);
  cursor: pointer;
}

.open:hover {
  color: var(--ink);
  text-decoration: underline;
}
</style>
