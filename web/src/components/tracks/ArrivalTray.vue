<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue'
import { computed } from 'vue'
import { attempt } from '../../composables/page/attempt'
import { useImport } from '../../composables/library/useImport'
import GlyphIcon from '../shared/GlyphIcon.vue'

const { arrivals, isBusy, clear, decide } = useImport()
const differing = computed(() => arrivals.value.filter((a) => a.brought === 'newer' || a.brought === 'older'))
const withMarks = computed(() => arrivals.value.filter((a) => a.brought === 'taken').length)

const refused = computed(() => arrivals.value.filter((a) => a.state === 'refused'))
const known = computed(() => arrivals.value.filter((a) => a.state === 'known'))
const arrived = computed(() => arrivals.value.filter((a) => a.state === 'done').length)
const sending = computed(() => arrivals.value.find((a) => a.state === 'sending'))
const share = computed(() => {
  const all = arrivals.value
  const done = all.filter((a) => a.state !== 'waiting' && a.state !== 'sending').length
  return Math.round(((done + (sending.value?.share ?? 0)) / Math.max(1, all.length)) * 100)
})
</script>

<template>
  <section v-if="arrivals.length" class="tray" aria-label="Files arriving">
    <div class="line">
      <template v-if="isBusy">
        <span class="clip">Bringing in ‘{{ sending?.name }}’</span>
        <Progress class="progress" :percent="share" size="small" />
      </template>
      <span v-else role="status">
        {{ arrived }} {{ arrived === 1 ? 'track' : 'tracks' }} brought in<template v-if="known.length">
          · {{ known.length }} had been there already</template
        ><template v-if="withMarks">
          · {{ withMarks }} with grid, cues and tags from
          {{ withMarks === 1 ? 'its file' : 'their files' }}</template
        >
      </span>
      <Button v-if="!isBusy" type="text" size="small" aria-label="Close the list of arrivals" @click="clear"
        ><GlyphIcon name="close"
      /></Button>
    </div>
    <ul v-if="differing.length" class="differing">
      <li v-for="arrival in differing" :key="arrival.key">
        The file ‘{{ arrival.name }}’ has other marks than the library,
        {{ arrival.brought === 'newer' ? 'newer' : 'older' }} ones.
        <Button
          size="small"
          :type="arrival.brought === 'newer' ? 'primary' : 'default'"
          @click="attempt(() => decide(arrival, true))"
          >Take those of the file</Button
        >
        <Button size="small" @click="decide(arrival, false)">Keep those here</Button>
      </li>
    </ul>
    <ul v-if="refused.length">
      <li v-for="arrival in refused" :key="arrival.key" role="alert">{{ arrival.reason }}</li>
    </ul>
  </section>
</template>

<style scoped>
.tray {
  margin: 0 20px 12px;
  padding: 8px 12px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

.line {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
}

.progress {
  width: 220px;
  margin: 0;
}

ul {
  max-height: 140px;
  margin: 6px 0 0;
  padding: 6px 0 0 18px;
  list-style: disc;
  overflow: auto;
  border-top: 1px solid var(--line);
  color: var(--bad);
}

.differing {
  color: var(--ink);
}

.differing li {
  padding: 2px 0;
}
</style>
