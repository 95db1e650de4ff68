<script setup lang="ts">
import { Segmented } from 'ant-design-vue'
import { computed, ref, useTemplateRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import AddLayer from '../components/layers/AddLayer.vue'
import LayerFields from '../components/layers/LayerFields.vue'
import LayerProposals from '../components/layers/LayerProposals.vue'
import LayersStage from '../components/layers/LayersStage.vue'
import CourseRibbon from '../components/shared/CourseRibbon.vue'
import StepButtons from '../components/shared/StepButtons.vue'
import ZoomButtons from '../components/shared/ZoomButtons.vue'
import WarningList from '../components/shared/WarningList.vue'
import MixStates from '../components/shell/MixStates.vue'
import { useKeys } from '../composables/page/useKeys'
import { useLayers } from '../composables/layers/useLayers'
import { mixPiece } from '../sound/pieces'
import { RATE } from '../sound/player'
import { useListening } from '../stores/listening'
import { useMix } from '../stores/mix'
import { BarLines } from '../time/barLines'
import { barBeat, clockTime } from '../time/format'

const SNAPS = [
  { value: 4, label: 'Bar' },
  { value: 1, label: 'Beat' },
  { value: 0, label: 'Free' },
]

/** What is laid over the mix: phrases of other tracks, drums, made sounds. */
const route = useRoute()
const router = useRouter()
const mix = useMix()
const listening = useListening()
const layers = useLayers()
const stage = useTemplateRef('stage')
const snap = ref(4)

const all = computed(() => [...layers.layers.value].sort((a, b) => a.start_s - b.start_s))
const chosen = computed(() => layers.layers.value.find((x) => x.layer.id === route.params.layer))
const at = computed(() => all.value.findIndex((x) => x === chosen.value))
const unit = computed(() =>
  snap.value === 4 ? (layers.leading(chosen.value?.start_s ?? 0)?.bar ?? 4) : snap.value,
)
const warnings = computed(() =>
  (mix.plan?.warnings ?? []).filter((s) => s.layer != null && mix.plan!.layers[s.layer] === chosen.value),
)
const playhead = computed(() => (mix.mix ? listening.secondsIn('mix', mix.mix.id) : undefined))

/** New ones go to where one listens, else to the middle of what is seen. */
const newPlace = () => playhead.value ?? stage.value?.middle() ?? 0
const where = computed(() => {
  const place = playhead.value === undefined ? undefined : layers.placeAt(playhead.value)
  return place
    ? `at bar ${barBeat(place.beat, BarLines.ofEntry(place.entry))} of ${place.entry.title}`
    : 'in the middle of the view'
})

function choose(id: string | undefined) {
  if (id !== (route.params.layer || undefined))
    void router.replace({ params: { ...route.params, layer: id ?? '' } })
}

function step(by: number) {
  const next = all.value[at.value < 0 ? (by > 0 ? 0 : all.value.length - 1) : at.value + by]
  if (next) choose(next.layer.id)
}

function hearMix(seconds: number) {
  if (mix.mix) listening.play(mixPiece(mix.mix), Math.round(Math.max(0, seconds) * RATE))
}

useKeys('Layers', [
  { keys: ['n'], label: 'Next layer', run: () => step(1) },
  { keys: ['p'], label: 'Previous layer', run: () => step(-1) },
  {
    keys: ['h'],
    label: 'Hear it within the mix',
    run: () => chosen.value && layers.hear(chosen.value, false),
  },
  { keys: ['j'], label: 'Hear it alone', run: () => chosen.value && layers.hear(chosen.value, true) },
  {
    keys: ['o'],
    label: 'On, or off',
    run: () => chosen.value && void layers.put({ ...chosen.value.layer, on: !chosen.value.layer.on }),
  },
  {
    keys: ['Delete'],
    label: 'Take it away',
    run: () => chosen.value && void layers.remove(chosen.value.layer.id),
  },
  { keys: ['+', '='], label: 'Larger', run: () => stage.value?.zoom(1.5) },
  { keys: ['-'], label: 'Smaller', run: () => stage.value?.zoom(1 / 1.5) },
  { keys: ['0'], label: 'The whole layer', run: () => stage.value?.fit() },
  { keys: ['Escape'], label: 'Choose none', run: () => choose(undefined) },
])
</script>

<template>
  <MixStates>
    <div v-if="!mix.plan?.entries.length || !mix.clock" class="few">
      <h2>Nothing to lay anything over yet</h2>
      <p>
        Put tracks into the
        <RouterLink :to="{ name: 'order', params: { mix: route.params.mix } }">running order</RouterLink>
        first.
      </p>
    </div>
    <div v-else class="layers">
      <div class="main">
        <CourseRibbon
          :chosen="undefined"
          :playhead="playhead"
          :layer="chosen?.layer.id"
          looks-for-layers
          @look="(seconds) => stage?.show(seconds)"
          @listen="hearMix"
        />
        <div class="tools">
          <StepButtons what="layer" :at="at" :count="all.length" @step="step" />
          <strong v-if="chosen" class="clip title">{{ chosen.words }}</strong>
          <span v-else class="soft">{{
            all.length ? 'Choose one, or lay another' : 'No layers yet: lay something over the mix'
          }}</span>
          <span class="gap" />
          <Segmented v-model:value="snap" :options="SNAPS" size="small" aria-label="Snap" />
          <span class="gap" />
          <ZoomButtons whole="The whole layer" @zoom="(factor) => stage?.zoom(factor)" @fit="stage?.fit()" />
        </div>
        <LayersStage
          ref="stage"
          :layers="layers"
          :chosen="chosen"
          :unit="unit"
          :playhead="playhead"
          @listen="hearMix"
          @choose="choose"
        />
      </div>
      <aside class="side-panel" aria-label="Layers">
        <LayerFields v-if="chosen" :key="chosen.layer.id" :planned="chosen" :layers="layers" />
        <WarningList v-if="warnings.length" :warnings="warnings" />
        <section v-if="all.length" aria-label="All layers">
          <h3>Layers</h3>
          <ol class="list">
            <li v-for="x in all" :key="x.layer.id" :class="{ here: x === chosen, off: !x.layer.on }">
              <button type="button" class="clip" @click="choose(x.layer.id)">{{ x.words }}</button>
              <span class="soft">{{ x.waits ? 'waits' : clockTime(x.start_s) }}</span>
            </li>
          </ol>
        </section>
        <AddLayer :layers="layers" :at="newPlace" :where="where" @laid="choose" />
        <LayerProposals :layers="layers" @laid="choose" />
      </aside>
    </div>
  </MixStates>
</template>

<style scoped>
.layers {
  display: grid;
  grid-template-columns: 1fr 300px;
  height: 100%;
}

.main {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}

.title {
  max-width: 260px;
  margin-left: 8px;
}

.list {
  margin: 4px 0 0;
  padding: 0;
}

.list li {
  display: grid;
  grid-template-columns: 1fr max-content;
  gap: 8px;
  padding: 3px 6px;
  border-top: 1px solid var(--line);
  font-size: 13px;
}

.list button {
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  text-align: left;
  cursor: pointer;
}

.list .here {
  background: var(--fern-soft);
}

.list .off button {
  color: var(--ink-faint);
}

@media (max-width: 860px) {
  .layers {
    grid-template: max-content max-content / 1fr;
    overflow: auto;
  }

  .main {
    height: 600px;
  }
}
</style>
