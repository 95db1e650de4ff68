<script setup lang="ts">
import { useStorage } from '@vueuse/core'
import { Button, Skeleton, Switch, Tooltip } from 'ant-design-vue'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Cue, Grid } from '../api/types'
import GlyphIcon from '../components/shared/GlyphIcon.vue'
import PickField from '../components/shared/PickField.vue'
import CueList from '../components/grid/CueList.vue'
import GridControls from '../components/grid/GridControls.vue'
import TrackPanel, { type Panel } from '../components/grid/TrackPanel.vue'
import GridStage from '../components/grid/GridStage.vue'
import GridWeave from '../components/grid/GridWeave.vue'
import TrackHeader from '../components/grid/TrackHeader.vue'
import TrackOverview from '../components/grid/TrackOverview.vue'
import { doubtfulPlaces } from '../time/doubtfulPlaces'
import { useCues } from '../composables/track/useCues'
import { useGridActions } from '../composables/track/useGridActions'
import { keyFor, undoKeys, useKeys, type Press } from '../composables/page/useKeys'
import { useLoops } from '../composables/track/useLoops'
import { useTapping } from '../composables/track/useTapping'
import { useTrackListening } from '../composables/track/useTrackListening'
import { useTempoRange } from '../composables/page/preferences'
import { useTrack, useTracks } from '../composables/library/useTracks'
import { useListening } from '../stores/listening'
import { useMarkup } from '../stores/markup'
import { BeatGrid } from '../time/grid'

const LOOPS = [
  { value: 0, label: 'No loop' },
  ...[1, 2, 4, 8].map((n) => ({ value: n, label: n === 1 ? 'Loop 1 bar' : `Loop ${n} bars` })),
]
const CLICKS = [-18, -12, -6, 0].map((db) => ({ value: db, label: db ? `−${-db} dB` : '0 dB' }))
const PLACES = ['First', 'Quarter', 'Middle', 'Three quarters', 'End']

const route = useRoute()
const router = useRouter()
const markup = useMarkup()
const listening = useListening()
const { data: tracks } = useTracks()
const stage = useTemplateRef('stage')

const id = computed(() => String(route.params.track ?? ''))
const { data: track } = useTrack(id)
const cursor = ref(0)
const tried = ref<Grid>()
const follows = ref(true)
let visited = -1

const { range } = useTempoRange()
const actions = useGridActions(cursor, range)
const panel = useStorage<Panel>('fernbrook.panel', 'grid')
/** The moment that is heard, while the track plays. */
const heard = () => (listening.isSounding ? listening.heardIn('track', id.value) : undefined)
const cues = useCues(cursor, heard)
const loops = useLoops(cues, () => heard() ?? cursor.value)
const { click, clickDb, loopBars, playhead, play, place, playLoop, hold, release } = useTrackListening(
  id,
  track,
  cursor,
  loops,
)
const { taps, tap, forget } = useTapping(heard, play)
const duration = computed(() => track.value?.duration_s ?? 0)
const shownBeats = computed(() => (tried.value ? new BeatGrid(tried.value) : markup.beats))

watch(
  id,
  (now) => {
    cursor.value = 0
    visited = -1
    forget()
    if (now) void markup.open(now)
  },
  { immediate: true },
)
watch([() => markup.track?.id, () => markup.beats], ([now], [before]) => {
  if (now && now !== before && markup.beats) cursor.value = Math.max(0, markup.beats.timeAt(0))
})
watch(
  tracks,
  (all) => {
    if (!id.value && all?.length) choose((all.find((t) => t.doubts.length && !t.checked) ?? all[0]!).id)
  },
  { immediate: true },
)
function choose(next: string) {
  void router.replace({ name: 'grid', params: { track: next } })
}

function hearCue(cue: Cue) {
  cues.chosenId.value = cue.id
  cursor.value = cues.secondsOf(cue)
  play()
}

/** First, quarter, middle, three quarters, end: the downbeat nearest to each. */
function lookAt(number: number) {
  const beats = markup.beats
  if (!beats) return place((duration.value * number) / 4)
  const wanted = Math.min((duration.value * number) / 4, duration.value - 4)
  const line = beats.bars.nearest(number ? beats.beatAt(wanted) : 0)
  place(Math.min(Math.max(0, beats.timeAt(line)), duration.value))
}

const doubtful = computed(() => (markup.offsets ? doubtfulPlaces(markup.offsets) : []))

function nextDoubtful() {
  if (!doubtful.value.length || !markup.beats) return
  visited = (visited + 1) % doubtful.value.length
  place(markup.beats.timeAt(doubtful.value[visited]!.beat))
}

function step(beats: number) {
  const grid = markup.beats
  if (grid)
    place(Math.min(Math.max(0, grid.timeAt(Math.round(grid.beatAt(cursor.value)) + beats)), duration.value))
}

function stepBars(by: number) {
  const grid = markup.beats
  if (!grid) return
  const line = grid.bars.beatOf(Math.round(grid.bars.at(Math.round(grid.beatAt(cursor.value))) + by))
  place(Math.min(Math.max(0, grid.timeAt(line)), duration.value))
}

const stepFrom = (event: Press, beats: number) => (event.shiftKey ? stepBars(beats) : step(beats))

useKeys('This grid', [
  { keys: ['Enter'], label: 'Play from the cursor', run: () => play() },
  {
    keys: ['ArrowLeft', 'ArrowRight'],
    label: 'A beat; with shift, a bar',
    run: (event) => stepFrom(event, event.key === 'ArrowLeft' ? -1 : 1),
  },
  ...PLACES.map((name, i) => ({ keys: [String(i + 1)], label: name, run: () => lookAt(i) })),
  { keys: ['n'], label: 'Next doubtful place', run: nextDoubtful },
  { keys: ['t'], label: 'Tap along', run: tap },
  { keys: ['k'], label: 'Click on the beats', run: () => (click.value = !click.value) },
  { keys: ['m'], label: 'Measure again', run: () => void markup.measure(range.value) },
  {
    keys: ['g'],
    label: 'Grid, or cues and loops',
    run: () => (panel.value = panel.value === 'grid' ? 'cues' : 'grid'),
  },
  { keys: ['+', '='], label: 'Larger', run: () => stage.value?.zoom(1.5) },
  { keys: ['-'], label: 'Smaller', run: () => stage.value?.zoom(1 / 1.5) },
  ...undoKeys(markup.undo, markup.redo),
])
</script>

<template>
  <div v-if="tracks && !tracks.length" class="few">
    <h2>There is no track yet</h2>
    <p>
      Bring some in under <RouterLink :to="{ name: 'tracks' }">Tracks</RouterLink>; each is analysed, and its
      grid can be seen and mended here.
    </p>
  </div>
  <div v-else-if="markup.missing" class="few" role="alert">
    <h2>That track is not in the library any more</h2>
    <p><RouterLink :to="{ name: 'tracks' }">All tracks</RouterLink></p>
  </div>
  <div v-else-if="markup.failure" class="few" role="alert">
    <p>{{ markup.failure }}</p>
    <Button @click="markup.open(id)">Try again</Button>
  </div>
  <div v-else-if="!track || !markup.track" class="few"><Skeleton active :paragraph="{ rows: 6 }" /></div>
  <div v-else class="grid">
    <TrackHeader
      :track="track"
      :tracks="tracks ?? []"
      @choose="choose"
      @check="actions.byId.checked!.run()"
    />
    <div class="main">
      <TrackOverview
        class="overview"
        :track-id="track.id"
        :duration="duration"
        :beats="shownBeats"
        :counted="markup.beats"
        :sections="markup.track.markup.sections"
        :voice="markup.track.markup.voice"
        :energy="markup.track.energy"
        :first-bar="markup.track.first_bar"
        :offsets="markup.offsets"
        :cues="cues.cues.value"
        :suggested="cues.suggested.value"
        :loops="loops.loops.value"
        :chosen-cue="cues.chosenId.value"
        :cursor="cursor"
        :playhead="playhead"
        :change-sections="(sections, why) => markup.send({ kind: 'put_sections', sections, why })"
        :change-voice="(voice, why) => markup.send({ kind: 'put_voice', voice, why })"
        @place="place"
        @analysed="markup.backToAnalysed"
        @cue="hearCue"
        @accept="cues.accept"
      />
      <div class="tools">
        <Tooltip title="Play from the cursor (Enter)">
          <Button type="primary" aria-label="Play from the cursor" @click="play()"
            ><GlyphIcon name="play" :size="13" /> From here</Button
          >
        </Tooltip>
        <PickField v-model:value="loopBars" class="loop" :options="LOOPS" label="Loop" />
        <label class="switch"
          ><Switch v-model:checked="click" size="small" aria-label="Click on the beats" /> Click</label
        >
        <PickField
          v-model:value="clickDb"
          class="db"
          :disabled="!click"
          :options="CLICKS"
          label="Level of the click"
        />
        <span class="gap" />
        <span class="places" role="group" aria-label="Places to check">
          <Tooltip v-for="(name, i) in PLACES" :key="name" :title="`${name} (${i + 1})`">
            <Button size="small" :aria-label="name" @click="lookAt(i)">{{
              ['Start', '¼', '½', '¾', 'End'][i]
            }}</Button>
          </Tooltip>
        </span>
        <Tooltip
          :title="
            doubtful.length
              ? `The worst offsets, one after the other (${keyFor('n')})`
              : 'No offset is worth a look'
          "
        >
          <Button size="small" :disabled="!doubtful.length" @click="nextDoubtful">Next doubtful place</Button>
        </Tooltip>
        <span class="gap" />
        <label class="switch"
          ><Switch v-model:checked="follows" size="small" aria-label="Follow the playhead" /> Follow</label
        >
        <Button size="small" aria-label="Zoom out" @click="stage?.zoom(1 / 1.5)"
          ><GlyphIcon name="minus"
        /></Button>
        <Button size="small" aria-label="Zoom in" @click="stage?.zoom(1.5)"><GlyphIcon name="plus" /></Button>
      </div>
      <GridStage
        ref="stage"
        class="stage"
        :track-id="track.id"
        :duration="duration"
        :grid="tried ?? markup.grid"
        :cursor="cursor"
        :playhead="playhead"
        :follows="follows"
        :cues="cues.cues.value"
        :suggested="cues.suggested.value"
        :loops="loops.loops.value"
        :chosen-cue="cues.chosenId.value"
        :chosen-loop="loops.chosenId.value"
        :quantum="cues.quantum.value"
        :move-line="(beat, to_s) => markup.send({ kind: 'move_line', beat, to_s })"
        @cue="hearCue"
        @move-cue="cues.moveTo"
        @accept="cues.accept"
        @loop="(loop) => (loops.chosenId.value = loop.id)"
        @change-loop="(loop) => loops.change(loop, {}, 'drag a loop’s edge')"
        @place="place"
        @draft="(g) => (tried = g)"
      />
      <GridWeave
        v-if="markup.grid"
        class="weave"
        :track-id="track.id"
        :duration="duration"
        :grid="markup.grid"
        :tried="tried"
        :swing="markup.track.swing"
        :cues="cues.cues.value"
        :cursor="cursor"
        @place="place"
        @draft="(g) => (tried = g)"
        @slide="(by) => actions.slide(by)"
        @line="(beat, to_s) => markup.send({ kind: 'move_line', beat, to_s })"
      />
      <p v-else class="few">
        No grid was found. Set a tempo, measure again in another range, or tap along: the weave appears as
        soon as there is one.
      </p>
    </div>
    <TrackPanel v-model:panel="panel">
      <GridControls
        v-if="panel === 'grid'"
        :actions="actions"
        :track="track"
        :cursor="cursor"
        :taps="taps.length"
        @tap="tap"
        @seek="place"
      />
      <CueList
        v-else
        :cues="cues"
        :loops="loops"
        :cursor="cursor"
        @seek="place"
        @hear="(s) => (place(s), play(s))"
        @hold="hold"
        @release="release"
        @hear-loop="(loop) => playLoop(loop)"
      />
    </TrackPanel>
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template: auto 1fr / 1fr 312px;
  height: 100%;
}

.grid > :first-child {
  grid-column: 1 / -1;
}

.main {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  padding-top: 6px;
}

.loop,
.db {
  height: 30px;
}

.places {
  display: flex;
  gap: 3px;
}

.stage {
  height: 168px;
  border: solid var(--line);
  border-width: 1px 0;
}

.weave {
  flex: 1;
}

@media (max-width: 860px) {
  .grid {
    grid-template: max-content max-content max-content / 1fr;
    overflow: auto;
  }

  .main {
    height: 660px;
  }
}
</style>
