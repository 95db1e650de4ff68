<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue'
import { computed } from 'vue'
import type { Entry } from '../../api/types'
import { useStems } from '../../composables/useStems'

/** Whether an entry's track has been taken apart, and how well; to have it done. */
const props = defineProps<{ entry: Entry }>()
const { stems, isMaking, make, remove } = useStems(
  computed(() => props.entry.track_id),
  computed(() => props.entry.track_version),
)
defineExpose({ stems })
</script>

<template>
  <div class="stems" role="group" :aria-label="`Stems of ${entry.title}`">
    <template v-if="isMaking">
      <span class="soft">Taking ‘{{ entry.title }}’ apart …</span>
      <Progress :percent="Math.round((stems?.job?.progress ?? 0) * 100)" size="small" />
    </template>
    <template v-else-if="stems?.made">
      <span class="soft"
        ><strong>{{ entry.title }}</strong
        >. {{ stems.words }}</span
      >
      <Button size="small" type="link" title="Throw them away, and make them anew" @click="make"
        >make anew</Button
      >
      <Button size="small" type="link" @click="remove">throw away</Button>
    </template>
    <template v-else>
      <span v-if="stems?.job?.error" class="error" role="alert">{{ stems.job.error }}</span>
      <Button size="small" title="Drums, bass, voice and music, by what recurs on its grid" @click="make"
        >Take ‘{{ entry.title }}’ apart</Button
      >
    </template>
  </div>
</template>

<style scoped>
.stems {
  margin-bottom: 6px;
  font-size: 12.5px;
  line-height: 1.35;
}

.error {
  display: block;
  color: var(--warn);
}
</style>
