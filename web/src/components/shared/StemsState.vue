<script setup lang="ts">
import { Button, Modal, Progress } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Entry, Stem } from '../../api/types'
import { useStems } from '../../composables/useStems'
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
      <Button
        size="small"
        type="link"
        title="Drums, bass or voice that you have as files"
        @click="giving = true"
        >use my own…</Button
      >
      <Button size="small" type="link" title="By itself, or by a model on your disk" @click="choosing = true"
        >how?</Button
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
        Files of your own, as they come out of a mixing desk or a separation. They are laid on the track to
        the sample, and checked to be of it. The music is what they leave.
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
