<script setup lang="ts">
import { Button, InputNumber, Progress } from 'ant-design-vue'
import { computed, ref, toRef, watch } from 'vue'
import { attempt } from '../../composables/page/attempt'
import type { OutputFormat } from '../../api/types'
import { useFormats } from '../../composables/page/useTables'
import { isOpen } from '../../composables/page/jobs'
import { useStraight } from '../../composables/track/useStraight'
import { bpm, megabytes } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'
import PickField from '../shared/PickField.vue'

const props = defineProps<{
  trackId: string
  /** Of the track's markup: another grid has another mean tempo. */
  version: number
}>()
const straight = useStraight(toRef(props, 'trackId'))
const list = straight.list.data
const tempo = ref<number>()
const { data: formats } = useFormats()
const picked = ref<OutputFormat>()
const output = computed({
  get: () => picked.value ?? formats.value?.[0]?.id,
  set: (format) => (picked.value = format),
})
/** What is straightened is mixed from then on: nothing of it may be lost. */
const options = computed(() =>
  (formats.value ?? []).filter((f) => f.is_lossless).map((f) => ({ value: f.id, label: f.label })),
)
watch(
  () => list.value?.suggested_bpm,
  (suggested) => (tempo.value = suggested ?? undefined),
  { immediate: true },
)
watch(() => props.version, straight.refresh)

const start = () => attempt(() => straight.start(tempo.value!, output.value!))
const bringIn = (id: string) =>
  attempt(() => straight.bringIn(id), 'Added to the library, with its exact grid.')
</script>

<template>
  <section aria-label="Make steady">
    <h3>Make steady</h3>
    <p class="soft">Renders the track at one steady tempo. Key and level stay.</p>
    <div class="row">
      <InputNumber
        v-model:value="tempo"
        class="tempo"
        size="small"
        :min="20"
        :max="400"
        :step="1"
        aria-label="Steady tempo in BPM"
      />
      <PickField v-model:value="output" class="format" :options="options" label="File" />
      <Button size="small" :disabled="!tempo || !output" @click="start">Render at one tempo</Button>
    </div>
    <ul v-if="list?.renders.length">
      <li v-for="r in list.renders" :key="r.id">
        <span>{{ bpm(r.bpm!) }} BPM</span>
        <template v-if="r.state === 'done'">
          <a :href="`/api/straight/${r.id}/file`" download :title="megabytes(r.bytes ?? 0)">Save</a>
          <Button type="link" size="small" @click="bringIn(r.id)">Add to library</Button>
          <Button
            type="text"
            size="small"
            :aria-label="`Delete the render at ${bpm(r.bpm!)} BPM`"
            @click="attempt(() => straight.remove(r.id))"
            ><GlyphIcon name="close"
          /></Button>
        </template>
        <template v-else-if="isOpen(r)">
          <Progress class="bar" :percent="Math.round(r.progress * 100)" size="small" />
          <Button type="text" size="small" aria-label="Cancel" @click="attempt(() => straight.cancel(r.id))"
            ><GlyphIcon name="close"
          /></Button>
        </template>
        <span v-else class="bad" role="alert">{{ r.error ?? 'It was ended.' }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
p {
  margin: 0 0 6px;
  font-size: 12px;
}

.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}

.tempo {
  width: 70px;
}

.format {
  width: 128px;
}

ul {
  margin: 6px 0 0;
  padding: 0;
}

li {
  display: flex;
  align-items: center;
  gap: 8px;
  white-space: nowrap;
}

.bar {
  flex: 1;
  margin: 0;
}

.bad {
  color: var(--bad);
  white-space: normal;
}
</style>
