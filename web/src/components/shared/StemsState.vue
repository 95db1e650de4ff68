<script setup lang="ts">
import { Button, Modal, Progress } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Entry, Stem } from '../../api/types'
import { useStems } from '../../composables/track/useStems'
import SeparationModel from './SeparationModel.vue'

/** Whether an entry's track has been taken apart, and how well; to have it done. */
const props = defineProps<{ entry: Pick<Entry, 'track_id' | 'track_version' | 'title'> }>()
const OWN: Stem[] = ['drums', 'bass', 'voice', 'music']
const giving = ref(false)
const choosing = ref(false)
const chosen = ref(new Map<Stem, File>())
const { stems, isMaking, make, remove, give } = useStems(
  computed(() => props.entry.track_id),
  computed(() => props.entry.track_version),
)

function pick(stem: Stem, file: File | undefined) {
  if (file) chosen.value.set(stem, file)
  else chosen.value.delete(stem)
}

async function send() {
  giving.value = false
  await give(chosen.value)
  chosen.value = new Map()
}
defineExpose({ stems })
</script>

<template>
  <div class="stems" role="group" :aria-label="`Stems of ${entry.title}`">
    <template v-if="isMaking">
      <span class="soft">Splitting ‘{{ entry.title }}’ into stems …</span>
      <Progress :percent="Math.round((stems?.job?.progress ?? 0) * 100)" size="small" />
    </template>
    <template v-else-if="stems?.made">
      <span class="soft"
        ><strong>{{ entry.title }}</strong
        >. {{ stems.words }}</span
      >
      <Button size="small" type="link" title="Deletes the stems and splits the track again" @click="make"
        >Split again</Button
      >
      <Button size="small" type="link" @click="remove">Delete stems</Button>
    </template>
    <template v-else>
      <span v-if="stems?.job?.error" class="error" role="alert">{{ stems.job.error }}</span>
      <Button size="small" title="Drums, bass, voice and music, each as its own lane" @click="make"
        >Split stems of ‘{{ entry.title }}’</Button
      >
      <Button
        size="small"
        type="link"
        title="Drums, bass or voice from files on your disk"
        @click="giving = true"
        >Use files…</Button
      >
      <Button
        size="small"
        type="link"
        title="Built in, or a separation model on your disk"
        @click="choosing = true"
        >Method…</Button
      >
    </template>
    <SeparationModel v-if="choosing" v-model:open="choosing" />
    <Modal
      v-model:open="giving"
      :title="`Stems of ‘${entry.title}’`"
      ok-text="Use them"
      :ok-button-props="{ disabled: !chosen.size }"
      @ok="send"
    >
      <p class="soft">
        Stems that you exported or separated elsewhere. They are aligned to the track to the sample, and
        checked against it. Music is whatever the others leave over.
      </p>
      <p v-for="stem in OWN" :key="stem" class="own">
        <label :for="`own-${stem}`">{{ stem }}</label>
        <input
          :id="`own-${stem}`"
          type="file"
          accept="audio/*,.flac,.aiff,.aif"
          @change="(e) => pick(stem, (e.target as HTMLInputElement).files?.[0])"
        />
      </p>
    </Modal>
  </div>
</template>

<style scoped>
.stems {
  margin-bottom: 6px;
  font-size: 12.5px;
  line-height: 1.35;
}

.own {
  display: grid;
  grid-template-columns: 70px 1fr;
  align-items: center;
}

.error {
  display: block;
  color: var(--warn);
}
</style>
