<script setup lang="ts">
import { Button, Segmented, Switch, Tooltip } from 'ant-design-vue'
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import CourseRibbon from '../components/shared/CourseRibbon.vue'
import StepButtons from '../components/shared/StepButtons.vue'
import ZoomButtons from '../components/shared/ZoomButtons.vue'
import PickField from '../components/shared/PickField.vue'
import MixStates from '../components/shell/MixStates.vue'
import BlindCompare from '../components/transitions/BlindCompare.vue'
import HearButtons from '../components/transitions/HearButtons.vue'
import MarksRow from '../components/transitions/MarksRow.vue'
import WarningsButton from '../components/transitions/WarningsButton.vue'
import SeamStage from '../components/transitions/SeamStage.vue'
import TransitionPanel from '../components/transitions/panel/TransitionPanel.vue'
import { mixPiece, transitionPiece, type Heard } from '../sound/pieces'
import { useKeys } from '../composables/page/useKeys'
import type { Placing } from '../api/types'
import { useProposals } from '../composables/transition/useProposals'
import { useSides } from '../composables/transition/useSides'
import { usePlayAll } from '../composables/mix/usePlayAll'
import type { Place, Snap } from '../composables/transition/usePlacing'
import { RATE } from '../sound/player'
import { useFresh } from '../stores/fresh'
import { useListening } from '../stores/listening'
import { useMarks } from '../stores/marks'
import { useMix } from '../stores/mix'

const CLICK_DB = -9
const SNAPS = [
  { value: 'bar', label: 'Bar' },
  { value: 'beat', label: 'Beat' },
  { value: 'none', label: 'Free' },
]
const AROUND = [4, 8, 16, 32].map((value) => ({ value, label: `±${value}` }))

const route = useRoute()
const router = useRouter()
const mix = useMix()
const listening = useListening()
const fresh = useFresh()
const stage = useTemplateRef('stage')

const snap = ref<Snap>('bar')
/** Where the transition lies as it is drawn, a drag under way included. */
const place = ref<Place>()
const click = ref(false)
/** How many beats are heard before and after the overlap. */
const around = useLocalStorage('fernbrook-around', 8)
const clicks = computed(() => (click.value ? CLICK_DB : undefined))
const count = computed(() => mix.plan?.transitions.length ?? 0)
const index = computed(() =>
  Math.min(Math.max(Number(route.params.number || 1) - 1, 0), Math.max(0, count.value - 1)),
)
const planned = computed(() => mix.plan?.transitions[index.value])
const { axis, outgoing, incoming } = useSides(
  computed(() => mix.plan?.entries[index.value]),
  computed(() => mix.plan?.entries[index.value + 1]),
  planned,
  computed(() => mix.clocks),
)
const playhead = computed(() => (mix.mix ? listening.secondsIn('mix', mix.mix.id) : undefined))

/** Transitions that are chosen beside the one that is looked at, for what can be done to several. */
const others = ref<ReadonlySet<number>>(new Set())

function choose(next: number, how = { add: false, range: false }) {
  if (next < 0 || next >= count.value) return
  const between = [...Array(Math.abs(next - index.value)).keys()]
  others.value = new Set(
    how.range
      ? between.map((i) => i + Math.min(next + 1, index.value))
      : how.add
        ? [...others.value, index.value].filter((i) => i !== next)
        : [],
  )
  void router.replace({ params: { ...route.params, number: next + 1 } })
}

/** A new transition that somebody has come to is new no more; the others wait. */
watch([index, () => fresh.places], () => fresh.places.includes(index.value) && fresh.seen(index.value), {
  immediate: true,
})

function nextNew() {
  const after = fresh.places.find((place) => place > index.value) ?? fresh.places[0]
  if (after !== undefined) choose(after)
}

const { proposals } = useProposals(planned)
/** The proposal that is looked at. */
const pointed = ref<Placing>()
const comparing = ref(false)
const marks = useMarks()
const playAll = usePlayAll(choose)

function playOrStop() {
  if (playAll.isPlaying.value) playAll.stop()
  else playAll.play(index.value)
}

/** ‘Come back here’: mark what is heard at this moment. */
function mark() {
  const at = mix.mix && listening.heardIn('mix', mix.mix.id)
  if (at !== undefined) marks.add(at)
}

/** Go to a moment of the mix: to the transition that is nearest, from where it is heard. */
function goTo(seconds: number) {
  const all = mix.plan?.transitions ?? []
  const near = (i: number) => Math.max(all[i]!.start_s - seconds, seconds - all[i]!.end_s, 0)
  const nearest = all.reduce((best, _, i) => (near(i) < near(best) ? i : best), 0)
  choose(nearest)
  hearMix(seconds)
}

function pieceOf(heard: Heard) {
  if (!mix.mix || !mix.clock || !planned.value) return undefined
  return transitionPiece(mix.mix, mix.clock, planned.value, hearing(heard))
}

const hearing = (heard: Heard) => ({ heard, clickDb: clicks.value, around: around.value })

/** Only where the one gives way to the other. */
function hearHandOver() {
  if (!mix.mix || !mix.clock || !planned.value) return
  listening.play(
    transitionPiece(mix.mix, mix.clock, planned.value, { ...hearing('both'), handOverOnly: true }),
  )
}

/** Hear this transition from a place in it; the mix from there where the place lies outside. */
function hearFrom(seconds: number) {
  const piece = pieceOf('both')
  if (!piece || !mix.mix) return
  const frame = Math.round(seconds * RATE)
  listening.play(frame >= piece.start && frame < piece.end ? piece : mixPiece(mix.mix), frame)
}

function useTake(number: number) {
  if (!planned.value) return
  const { out_id, in_id } = planned.value.transition
  void mix.send({ kind: 'use_take', out_id, in_id, number })
}

function hearMix(seconds: number) {
  if (mix.mix) listening.play(mixPiece(mix.mix), Math.round(seconds * RATE))
}

useKeys('Transitions', [
  { keys: ['w'], label: 'Play all transitions, or stop', run: playOrStop },
  { keys: ['x'], label: 'Add marker at what is heard now', run: mark },
  { keys: ['h'], label: 'Hear the hand-over only', run: hearHandOver },
  { keys: ['n'], label: 'Next transition', run: () => choose(index.value + 1) },
  { keys: ['p'], label: 'Previous transition', run: () => choose(index.value - 1) },
  { keys: ['m'], label: 'Next new transition', run: nextNew },
  { keys: ['k'], label: 'Click on the beats', run: () => (click.value = !click.value) },
  { keys: ['+', '='], shown: '+', label: 'Larger', run: () => stage.value?.zoom(1.5) },
  { keys: ['-'], shown: '−', label: 'Smaller', run: () => stage.value?.zoom(1 / 1.5) },
  { keys: ['0'], label: 'The whole overlap', run: () => stage.value?.fit() },
])
</script>

<template>
  <MixStates>
    <div v-if="!planned || !outgoing || !incoming || !axis" class="few">
      <h2>A transition needs two tracks</h2>
      <p>
        This mix has {{ mix.plan?.entries.length === 1 ? 'one' : 'none' }} so far. Put tracks into the
        <RouterLink :to="{ name: 'order', params: route.params }">running order</RouterLink>; each pair of
        neighbours gets a transition that works as it is.
      </p>
    </div>
    <div v-else class="transitions">
      <div class="main">
        <CourseRibbon
          :chosen="index"
          :others="others"
          :playhead="playhead"
          @choose="choose"
          @listen="hearMix"
        />
        <div class="tools">
          <StepButtons what="transition" :at="index" :count="count" @step="(by) => choose(index + by)" />
          <Tooltip v-if="fresh.places.length" title="The next that was made new by a change of the order (M)">
            <Button size="small" @click="nextNew">{{ fresh.places.length }} new</Button>
          </Tooltip>
          <Tooltip
            :title="playAll.isPlaying.value ? 'Stop (W)' : 'Hear all transitions, one after the other (W)'"
          >
            <Button @click="playOrStop">{{
              playAll.isPlaying.value ? 'Stop' : 'Play all transitions'
            }}</Button>
          </Tooltip>
          <WarningsButton />
          <span class="gap" />
          <HearButtons :around="around" :piece-of="pieceOf" @hand-over="hearHandOver" />
          <Tooltip title="Beats that are heard before and after">
            <PickField
              class="around"
              :value="around"
              label="Beats before and after"
              :options="AROUND"
              @update:value="(n) => n && (around = Number(n))"
            />
          </Tooltip>
          <span class="break" />
          <Tooltip title="One click for both sides, on the beats of the mix (K)">
            <label class="switch"
              ><Switch v-model:checked="click" size="small" aria-label="Click on the beats" /> Click</label
            >
          </Tooltip>
          <span class="gap" />
          <span class="together">
            <Segmented v-model:value="snap" :options="SNAPS" size="small" aria-label="Snap" />
          </span>
          <span class="gap" />
          <ZoomButtons
            whole="The whole overlap"
            @zoom="(factor) => stage?.zoom(factor)"
            @fit="stage?.fit()"
          />
        </div>
        <MarksRow @go="goTo" />
        <SeamStage
          ref="stage"
          class="stage"
          :planned="planned"
          :axis="axis"
          :outgoing="outgoing"
          :incoming="incoming"
          :snap="snap"
          :proposals="proposals"
          :pointed="pointed"
          :playhead="playhead"
          @listen="hearFrom"
          @draft="(p) => (place = p)"
        />
      </div>
      <TransitionPanel
        v-if="place"
        :planned="planned"
        :outgoing="outgoing"
        :incoming="incoming"
        :place="place"
        :editing="stage?.editing"
        :proposals="proposals"
        :several="[index, ...others].sort((a, b) => a - b)"
        :beat="playhead === undefined ? undefined : mix.clock?.beatAt(playhead)"
        @point="(p) => (pointed = p)"
        @use="useTake"
        @compare="comparing = true"
      />
      <BlindCompare v-model:open="comparing" :planned="planned" :around="around" @use="useTake" />
    </div>
  </MixStates>
</template>

<style scoped>
.transitions {
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

.stage {
  flex: 1;
  min-height: 0;
  border-top: 1px solid var(--line);
}

/* What is listened to, and below it what is looked at. */
.break {
  flex-basis: 100%;
  height: 0;
}

.around {
  width: 58px;
}

.together {
  display: flex;
  align-items: center;
  gap: 6px;
}

@media (max-width: 1180px) {
  .transitions {
    grid-template-columns: 1fr 264px;
  }

  .gap {
    flex: 0 1 8px;
  }
}

/* At 200 % zoom there is no room beside each other: the numbers follow below. */
@media (max-width: 860px) {
  .transitions {
    grid-template: max-content max-content / 1fr;
    overflow: auto;
  }

  .main {
    height: 640px;
  }
}
</style>
