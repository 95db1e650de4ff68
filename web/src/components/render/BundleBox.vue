<script setup lang="ts">
import { Button, Checkbox, Progress } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { isOpen } from '../../composables/page/jobs'
import type { BundleAudio } from '../../api/types'
import { useBundles } from '../../composables/export/useBundles'
import { megabytes } from '../../time/format'
import PickField from '../shared/PickField.vue'

/** The mix as one file that opens on another machine. */
const props = defineProps<{ mixId: string }>()

const MUSIC: { value: BundleAudio; label: string }[] = [
  { value: 'original', label: 'with the music as it is' },
  { value: 'flac', label: 'with the music as FLAC' },
  { value: 'none', label: 'without the music' },
]
const WORDS: Record<BundleAudio, string> = {
  original: 'with the music',
  flac: 'as FLAC',
  none: 'without music',
}
const { bundles, make, remove, cancel } = useBundles(computed(() => props.mixId))
const audio = ref<BundleAudio>('original')
const history = ref(true)
const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }) // prettier-ignore
</script>

<template>
  <section class="bundles" aria-labelledby="bundle">
    <h2 id="bundle">Bundle for another computer</h2>
    <p class="soft">
      A bundle holds the mix, what was set by hand on its tracks, and the music. Drop it on Fernbrook there.
    </p>
    <div class="how">
      <PickField v-model:value="audio" label="The music in the bundle" :options="MUSIC" />
      <Checkbox v-model:checked="history">with all its history</Checkbox>
      <Button size="small" @click="make(audio, history)">Make bundle</Button>
    </div>
    <ul v-if="bundles?.length">
      <li v-for="b in bundles" :key="b.id">
        <span>{{ when.format(new Date(b.made_at)) }}</span>
        <span class="soft">{{ WORDS[b.audio] }}</span>
        <template v-if="b.job.state === 'done'">
          <span class="soft">{{ b.bytes ? megabytes(b.bytes) : '' }}</span>
          <Button size="small" :href="`/api/bundles/${b.id}/file`" download>Download</Button>
          <Button size="small" type="text" @click="remove(b.id)">Delete</Button>
        </template>
        <template v-else-if="isOpen(b.job)">
          <Progress size="small" :percent="Math.floor(b.job.progress * 100)" aria-label="Packing" />
          <Button size="small" @click="cancel(b.id)">Cancel</Button>
        </template>
        <template v-else>
          <span class="bad">{{ b.job.error ?? b.job.state }}</span>
          <Button size="small" type="text" @click="remove(b.id)">Delete</Button>
        </template>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.bundles {
  margin-top: 26px;
}

.bundles p {
  margin: 0 0 8px;
}

.how {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
}

ul {
  margin: 10px 0 0;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: max-content 1fr max-content max-content max-content;
  align-items: center;
  gap: 10px;
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
}
</style>
