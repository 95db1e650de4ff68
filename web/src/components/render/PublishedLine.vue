<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue'
import { isOpen } from '../../composables/page/jobs'
import type { Published } from '../../api/types'

/** How a file fares on its way to a host. */
defineProps<{ published: Published }>()
const emit = defineEmits<{ cancel: []; retry: []; forget: [] }>()
</script>

<template>
  <div class="line">
    <template v-if="published.job.state === 'done'">
      <span class="fern">Published at</span>
      <a :href="published.url ?? published.host" target="_blank" rel="noopener" class="clip">{{
        published.url ?? published.host
      }}</a>
    </template>
    <template v-else-if="isOpen(published.job)">
      <span class="soft clip">Sending to {{ published.host }}</span>
      <Progress
        class="even"
        size="small"
        :percent="Math.floor(published.job.progress * 100)"
        :aria-label="`Sending to ${published.host}`"
      />
      <Button size="small" @click="emit('cancel')">Cancel</Button>
    </template>
    <template v-else>
      <span class="bad">{{ published.job.error ?? `Sending was ${published.job.state}.` }}</span>
      <Button size="small" @click="emit('retry')">Go on</Button>
      <Button size="small" type="text" @click="emit('forget')">Forget it</Button>
    </template>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 6px;
}

.even {
  flex: 1;
}

.bad {
  flex: 1;
  color: var(--bad);
}

.fern,
a {
  color: var(--fern);
}
</style>
