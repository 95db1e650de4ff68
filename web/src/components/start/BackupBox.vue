<script setup lang="ts">
import { Button, Checkbox, Progress } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useBackups } from '../../composables/export/useBackups'
import { megabytes } from '../../time/format'
import PickField from '../shared/PickField.vue'

/** Backups of the whole library: made now or automatically, and saved elsewhere. */
const NEVER = 0
const EVERY = [
  { value: NEVER, label: 'only by hand' },
  { value: 1, label: 'every day' },
  { value: 7, label: 'every week' },
  { value: 30, label: 'every month' },
]
const { backups, schedule, making, make, remove, plan } = useBackups()
const withAudio = ref(true)
const done = computed(() => (backups.value ?? []).filter((b) => b.job.state === 'done'))
/** Why the last one was not made; an older failure is over. */
const failed = computed(() => backups.value?.[0]?.job.error)
const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }) // prettier-ignore

function every(days: number | undefined) {
  if (!schedule.value) return
  void plan({ ...schedule.value, every_days: days || null, with_audio: withAudio.value })
}
</script>

<template>
  <section class="backups" aria-labelledby="backups">
    <h2 id="backups">Backup</h2>
    <p class="soft">
      All mixes, markup and, if you like, the music in one file, made while you work. Keep a copy on another
      disk. <code>fernbrook restore</code> brings it back.
    </p>
    <div class="acts">
      <Button size="small" :disabled="!!making" @click="make(withAudio)">Back up now</Button>
      <Checkbox v-model:checked="withAudio">with the music</Checkbox>
      <span class="gap" />
      <span class="soft">automatic</span>
      <PickField
        :value="schedule?.every_days ?? NEVER"
        label="How often automatically"
        :options="EVERY"
        @update:value="every"
      />
    </div>
    <Progress
      v-if="making"
      size="small"
      aria-label="Backing up"
      :percent="Math.floor((making.job.progress ?? 0) * 100)"
    />
    <p v-if="failed && !making" class="bad" role="alert">{{ failed }}</p>
    <ul v-if="done.length">
      <li v-for="b in done" :key="b.id">
        <span>{{ when.format(new Date(b.made_at)) }}</span>
        <span class="soft">{{ b.with_audio ? 'with the music' : 'without the music' }}</span>
        <span class="soft">{{ b.bytes ? megabytes(b.bytes) : '' }}</span>
        <Button size="small" :href="`/api/backups/${b.id}/file`" download>Save elsewhere</Button>
        <Button size="small" type="text" @click="remove(b.id)">Delete</Button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.backups {
  margin-top: 30px;
}

.acts {
  display: flex;
  align-items: center;
  gap: 10px;
}

ul {
  margin: 10px 0 0;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 130px 1fr max-content max-content max-content;
  align-items: center;
  gap: 14px;
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
</style>
