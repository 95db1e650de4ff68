<script setup lang="ts">
import { Segmented } from 'ant-design-vue'
import { computed } from 'vue'

export type Panel = 'grid' | 'cues'

/** What can be done to the track that is open: its grid, or its cues and loops. */
const panel = defineModel<Panel>('panel', { required: true })

const PANELS = [
  { value: 'grid', label: 'Grid' },
  { value: 'cues', label: 'Cues & loops' },
]
const name = computed(() => PANELS.find((p) => p.value === panel.value)!.label)
</script>

<template>
  <aside class="panel" :aria-label="name">
    <div class="tabs">
      <Segmented v-model:value="panel" :options="PANELS" block aria-label="Panel" />
    </div>
    <div class="body"><slot /></div>
  </aside>
</template>

<style scoped>
.panel {
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-left: 1px solid var(--line);
  background: var(--sheet);
}

.tabs {
  padding: 8px 14px;
  border-bottom: 1px solid var(--line);
}

.body {
  flex: 1;
  min-height: 0;
  overflow: auto;
}

:deep(section) {
  padding: 9px 14px;
  border-bottom: 1px solid var(--line);
}

:deep(section:last-child) {
  border: 0;
}

:deep(h3) {
  margin-bottom: 6px;
}
</style>
