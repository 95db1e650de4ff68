<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import type { MadeSpec, Stem } from '../../api/types'
import { useGrids } from '../../composables/mix/useGrids'
import { useImport } from '../../composables/library/useImport'
import type { Layers } from '../../composables/layers/useLayers'
import { useStems } from '../../composables/track/useStems'
import { useMadeSounds } from '../../composables/page/useTables'
import { useTracks } from '../../composables/library/useTracks'
import { percent } from '../../time/format'
import { countFor, spansOf } from '../../time/trackSpans'
import TrackPicker from '../grid/TrackPicker.vue'
import FilePicker from '../shared/FilePicker.vue'
import FoldSection from '../shared/FoldSection.vue'
import PickField from '../shared/PickField.vue'
import StemsState from '../shared/StemsState.vue'

/** By more than this a span is heard to be bent. */
const NOTICEABLE = 0.06
const ALL = 'all'

/** To lay something over the mix: a made sound, or a part of any track, or of a stem of it. */
const props = defineProps<{
  layers: Layers
  /** The moment of the mix that it goes to, and what that is called. */
  at: () => number
  where: string
}>()
const emit = defineEmits<{ laid: [id: string] }>()

const { data: tracks } = useTracks()
const { data: made } = useMadeSounds()
const arriving = useImport()
const trackId = ref<string>()
const spanAt = ref(0)
const stem = ref<Stem | typeof ALL>(ALL)
/** Files that were picked here: the first of them that has come is chosen. */
const awaits = ref(false)

const track = computed(() => tracks.value?.find((t) => t.id === trackId.value))
const asked = computed(() =>
  track.value
    ? { track_id: track.value.id, track_version: track.value.version, title: track.value.title }
    : undefined,
)
const grids = useGrids(computed(() => [asked.value]))
const spans = computed(() => {
  const grid = trackId.value ? grids.value.get(trackId.value) : undefined
  return grid ? spansOf(grid) : []
})
const span = computed(() => spans.value[spanAt.value] ?? spans.value[0])
const { stems } = useStems(
  computed(() => trackId.value ?? ''),
  computed(() => track.value?.version ?? 0),
)
const parts = computed(() => [
  { value: ALL as Stem | typeof ALL, label: 'All of it' },
  ...(stems.value?.offered ?? []).map((s) => ({ value: s, label: `Its ${s}` })),
])
const fit = computed(() => {
  const bpm = props.layers.leading(props.at())?.home_bpm
  return track.value?.bpm && bpm ? countFor(track.value.bpm, bpm) : { count: 1, bend: 0 }
})
watch(trackId, () => {
  spanAt.value = 0
  stem.value = ALL
})
watch(
  () => arriving.arrivals.value.find((a) => a.track)?.track,
  (id) => {
    if (!awaits.value || !id) return
    awaits.value = false
    trackId.value = id
  },
)

async function layMade({ sound, bars }: MadeSpec) {
  const beats = bars * (props.layers.leading(props.at())?.bar ?? 4)
  const id = await props.layers.lay({ of: 'made', sound, beats }, props.at())
  if (id) emit('laid', id)
}

async function layTrack() {
  if (!track.value || !span.value) return
  const { start, beats } = span.value
  const part = stem.value === ALL ? null : stem.value
  const id = await props.layers.lay(
    {
      of: 'track',
      track_id: track.value.id,
      start,
      beats,
      stem: part,
      count: fit.value.count,
      follows: true,
    },
    props.at(),
  )
  if (id) emit('laid', id)
}
</script>

<template>
  <FoldSection name="add-layer" title="Add layer" :summary="where" starts-open>
    <div class="made" role="group" aria-label="Made sounds">
      <Button v-for="sound in made" :key="sound.sound" size="small" @click="layMade(sound)">{{
        sound.label
      }}</Button>
    </div>
    <div class="of-track" role="group" aria-label="Part of a track">
      <span class="soft">or a part of a track</span>
      <TrackPicker v-if="tracks" :tracks="tracks" :chosen="trackId" @choose="(id) => (trackId = id)" />
      <FilePicker v-slot="{ pick }">
        <Button
          size="small"
          type="link"
          title="A short sound from your disk; it is added to the library first"
          @click="((awaits = true), pick())"
          >a sound file…</Button
        >
      </FilePicker>
      <template v-if="track">
        <PickField
          v-if="spans.length"
          v-model:value="spanAt"
          label="Which part"
          :options="spans.map((s, value) => ({ value, label: s.label }))"
        />
        <span v-else class="soft">Nothing is known of its parts yet.</span>
        <PickField v-model:value="stem" label="All of it, or a stem" :options="parts" />
        <StemsState v-if="asked && parts.length === 1" :entry="asked" />
        <span v-if="Math.abs(fit.bend) > NOTICEABLE" class="bent"
          >It would be bent by {{ percent(fit.bend) }}.</span
        >
        <Button size="small" type="primary" :disabled="!span" @click="layTrack">Lay it here</Button>
      </template>
    </div>
  </FoldSection>
</template>

<style scoped>
.made {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
}

.of-track {
  display: grid;
  gap: 6px;
  margin-top: 10px;
}

.of-track :deep(.pick),
.of-track :deep(.picker) {
  width: 100%;
  min-width: 0;
}

.bent {
  color: var(--warn);
  font-size: 12.5px;
}
</style>
