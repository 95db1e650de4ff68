<script setup lang="ts">
import { BeatGrid } from '../time/grid'
import { Button, Popover } from 'ant-design-vue'
import { computed, ref, useTemplateRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Fold } from '../api/types'
import EditsPanel from '../components/edits/EditsPanel.vue'
import EditsStage from '../components/edits/EditsStage.vue'
import CourseRibbon from '../components/shared/CourseRibbon.vue'
import StepButtons from '../components/shared/StepButtons.vue'
import NumberField from '../components/shared/NumberField.vue'
import MixStates from '../components/shell/MixStates.vue'
import { attempt } from '../composables/page/attempt'
import { useEditing } from '../composables/edits/useEditing'
import { toLength } from '../composables/edits/useFolds'
import { useMixPlace } from '../composables/mix/useMixPlace'
import { useGrids } from '../composables/mix/useGrids'
import { useKeys } from '../composables/page/useKeys'
import { mixPiece } from '../sound/pieces'
import { RATE } from '../sound/player'
import { useListening } from '../stores/listening'
import { useMix } from '../stores/mix'
import { EntryClock, entryBeatOf, mixBeatOf } from '../time/entryClock'
import { clockTime } from '../time/format'

/** An entry of the mix, made one's own: what is left out, repeated or silenced of its track in this use of it. */
const route = useRoute()
const router = useRouter()
const mix = useMix()
const listening = useListening()
const stage = useTemplateRef('stage')
const pointed = ref<Fold>()
const found = ref('')

const entries = computed(() => mix.plan?.entries ?? [])
const index = computed(() =>
  Math.min(Math.max(Number(route.params.number || 1) - 1, 0), Math.max(0, entries.value.length - 1)),
)
useMixPlace(
  computed(() => (entries.value.length ? mix.mix?.id : undefined)),
  index,
)
const entry = computed(() => entries.value[index.value])
const grids = useGrids(computed(() => [entry.value]))
const track = computed(() => (entry.value ? grids.value.get(entry.value.track_id) : undefined))
const editing = useEditing(entry, track)
const clock = computed(() => mix.clocks[entry.value?.clock ?? 0])
const arrival = computed(() => {
  const t = mix.plan?.transitions[index.value - 1]?.transition
  return t && { start: t.in_at, end: t.in_at + t.beats }
})
const departure = computed(() => {
  const t = mix.plan?.transitions[index.value]?.transition
  return t && { start: t.out_at, end: t.out_at + t.beats }
})
const playhead = computed(() => (mix.mix ? listening.secondsIn('mix', mix.mix.id) : undefined))
const playBeat = computed(() => {
  const e = entry.value
  if (playhead.value === undefined || !e || playhead.value < e.start_s || playhead.value > e.end_s)
    return undefined
  return clock.value && entryBeatOf(e, clock.value.beatAt(playhead.value))
})
const minutes = computed(() => Math.round((mix.plan?.duration_s ?? 0) / 60))

function choose(next: number) {
  if (next < 0 || next >= entries.value.length) return
  void router.replace({ params: { ...route.params, number: next + 1 } })
}

/** A span of the course as one of the track, on bar lines. */
function selectOnCourse(from: number, to: number) {
  const e = entry.value
  if (!e || !clock.value || !track.value) return
  const heard = EntryClock.of(e, track.value.grid)
  const { bars } = new BeatGrid(track.value.grid)
  const [start, end] = [from, to]
    .map((s) => heard.gridBeat(entryBeatOf(e, clock.value!.beatAt(s))))
    .map((b) => bars.nearest(b))
  if (end! > start!) editing.choose({ start: start!, end: end! })
}

function hearMix(seconds: number) {
  if (mix.mix) listening.play(mixPiece(mix.mix), Math.round(Math.max(0, seconds) * RATE))
}

function hearFrom(entryBeat: number) {
  if (clock.value && entry.value) hearMix(clock.value.timeAt(mixBeatOf(entry.value, entryBeat)))
}

function bringTo(wanted: number) {
  return attempt(async () => {
    const way = await toLength(mix.mix!.id, wanted * 60)
    if (!way.command) found.value = 'No phrase can be left out that would hardly be noticed.'
    else if (await mix.send(way.command))
      found.value = `${way.cuts} phrases are left out, the mix lasts ${clockTime(way.duration_s)}; sides at least ${Math.round(way.likeness * 100)} % alike.`
  }).then(() => true)
}

useKeys('Edits', [
  { keys: ['n'], label: 'Next track', run: () => choose(index.value + 1) },
  { keys: ['p'], label: 'Previous track', run: () => choose(index.value - 1) },
  {
    keys: ['ArrowLeft', 'ArrowRight'],
    label: 'Choose a phrase; with shift, more of them',
    run: (event) => stage.value?.step(event.key === 'ArrowRight' ? 1 : -1, event.shiftKey),
  },
  { keys: ['x', 'Delete'], label: 'Take out', run: () => void editing.skip() },
  { keys: ['r'], label: 'Hear it twice', run: () => void editing.repeat(2) },
  { keys: ['u'], label: 'Repeat it until the track has left', run: () => void editing.repeat(null) },
  { keys: ['w'], label: 'Swap with what follows', run: () => void editing.swapWithNext() },
  { keys: ['d'], label: 'Silence it', run: () => void editing.drop([]) },
  { keys: ['v'], label: 'Drop the voice in it', run: () => void editing.drop(['voice']) },
  {
    keys: ['o'],
    label: 'Original or edited',
    run: () => void editing.asRecorded(!entry.value?.edited?.as_recorded),
  },
  { keys: ['Escape'], label: 'Choose nothing', run: () => editing.choose(undefined) },
])
</script>

<template>
  <MixStates>
    <div v-if="!entry" class="few">
      <h2>Nothing to edit yet</h2>
      <p>
        Put tracks into the
        <RouterLink :to="{ name: 'order', params: route.params }">running order</RouterLink> first.
      </p>
    </div>
    <div v-else class="edits">
      <div class="main">
        <CourseRibbon
          :chosen="undefined"
          :playhead="playhead"
          :entry="index"
          @choose="(i) => choose(i)"
          @select="selectOnCourse"
          @listen="hearMix"
        />
        <div class="tools">
          <StepButtons what="track" :at="index" :count="entries.length" @step="(by) => choose(index + by)" />
          <strong class="clip title">{{ entry.title }}</strong>
          <span class="soft">{{ clockTime(entry.end_s - entry.start_s) }} in the mix</span>
          <span class="gap" />
          <span v-if="found" class="soft" role="status">{{ found }}</span>
          <Popover trigger="click" placement="bottomRight">
            <Button size="small">Bring the mix to a length…</Button>
            <template #content>
              <div class="length">
                <NumberField
                  :value="minutes"
                  :step="1"
                  :min="1"
                  :max="1440"
                  label="Minutes"
                  :send="bringTo"
                />
                <span class="soft">minutes: leaves out the phrases that are missed least</span>
              </div>
            </template>
          </Popover>
        </div>
        <EditsStage
          v-if="track"
          ref="stage"
          :entry="entry"
          :track="track"
          :editing="editing"
          :pointed="pointed"
          :arrival="arrival"
          :departure="departure"
          :play-beat="playBeat"
          @listen="hearFrom"
        />
      </div>
      <EditsPanel :entry="entry" :track="track" :editing="editing" @point="(f) => (pointed = f)" />
    </div>
  </MixStates>
</template>

<style scoped>
.edits {
  display: grid;
  grid-template-columns: 1fr 300px;
  height: 100%;
}

.main {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  overflow-y: auto;
}

.title {
  max-width: 260px;
  margin-left: 8px;
}

.length {
  display: flex;
  align-items: center;
  gap: 8px;
}

@media (max-width: 860px) {
  .edits {
    grid-template: max-content max-content / 1fr;
    overflow: auto;
  }
}
</style>
