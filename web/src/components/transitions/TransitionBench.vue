<script setup lang="ts">
import { Button, Segmented, Switch, Tooltip } from 'ant-design-vue'
import { ref, toRef } from 'vue'
import { usePlayAll } from '../../composables/mix/usePlayAll'
import { keyFor, useKeys } from '../../composables/page/useKeys'
import { provideTransition, type ShownTransition } from '../../composables/transition/useTransition'
import { useTransitionKeys } from '../../composables/transition/useTransitionKeys'
import { useTransitionSound } from '../../composables/transition/useTransitionSound'
import { useFresh } from '../../stores/fresh'
import { useMix } from '../../stores/mix'
import CourseRibbon from '../shared/CourseRibbon.vue'
import PickField from '../shared/PickField.vue'
import StepButtons from '../shared/StepButtons.vue'
import ZoomButtons from '../shared/ZoomButtons.vue'
import BlindCompare from './BlindCompare.vue'
import HearButtons from './HearButtons.vue'
import MarksRow from './MarksRow.vue'
import SeamStage from './SeamStage.vue'
import WarningsButton from './WarningsButton.vue'
import TransitionPanel from './panel/TransitionPanel.vue'

const SNAPS = [
  { value: 'bar', label: 'Bar' },
  { value: 'beat', label: 'Beat' },
  { value: 'none', label: 'Free' },
]
const AROUND = [4, 8, 16, 32].map((value) => ({ value, label: `±${value}` }))

/** One transition to be heard, placed and shaped, and the way to all others. */
const props = defineProps<{ shown: ShownTransition; others: ReadonlySet<number> }>()
const emit = defineEmits<{ choose: [index: number, how?: { add: boolean; range: boolean }] }>()

const mix = useMix()
const fresh = useFresh()
const transition = provideTransition(toRef(props, 'shown'))
const { planned, snap, view, fit, playhead } = transition
const sound = useTransitionSound(planned)
const { around, click } = sound
const playAll = usePlayAll((index) => emit('choose', index))
const comparing = ref(false)

function step(by: number) {
  emit('choose', planned.value.index + by)
}

function playOrStop() {
  if (playAll.isPlaying.value) playAll.stop()
  else playAll.play(planned.value.index)
}

function nextNew() {
  const after = fresh.places.find((place) => place > planned.value.index) ?? fresh.places[0]
  if (after !== undefined) emit('choose', after)
}

/** Go to a moment of the mix: to the transition that is nearest, from where it is heard. */
function goTo(seconds: number) {
  const all = mix.plan?.transitions ?? []
  const near = (i: number) => Math.max(all[i]!.start_s - seconds, seconds - all[i]!.end_s, 0)
  emit(
    'choose',
    all.reduce((best, _, i) => (near(i) < near(best) ? i : best), 0),
  )
  sound.hearMix(seconds)
}

useTransitionKeys(transition, { compare: () => (comparing.value = true) })
useKeys('Transitions', [
  { keys: ['w'], label: 'Play all transitions, or stop', run: playOrStop },
  { keys: ['x'], label: 'Add marker at what is heard now', run: sound.mark },
  { keys: ['h'], label: 'Hear the hand-over only', run: sound.hearHandOver },
  { keys: ['n'], label: 'Next transition', run: () => step(1) },
  { keys: ['p'], label: 'Previous transition', run: () => step(-1) },
  { keys: ['m'], label: 'Next new transition', run: nextNew },
  { keys: ['k'], label: 'Click on the beats', run: () => (click.value = !click.value) },
  { keys: ['+', '='], label: 'Larger', run: () => view.zoom(1.5) },
  { keys: ['-'], label: 'Smaller', run: () => view.zoom(1 / 1.5) },
  { keys: ['0'], label: 'The whole overlap', run: fit },
])
</script>

<template>
  <div class="transitions">
    <div class="main">
      <CourseRibbon
        :chosen="planned.index"
        :others="others"
        :playhead="playhead"
        @choose="(index, how) => emit('choose', index, how)"
        @listen="sound.hearMix"
      />
      <div class="tools">
        <StepButtons
          what="transition"
          :at="planned.index"
          :count="mix.plan?.transitions.length ?? 0"
          @step="step"
        />
        <Tooltip
          v-if="fresh.places.length"
          :title="`The next that was made new by a change of the order (${keyFor('m')})`"
        >
          <Button size="small" @click="nextNew">{{ fresh.places.length }} new</Button>
        </Tooltip>
        <Tooltip
          :title="
            playAll.isPlaying.value
              ? `Stop (${keyFor('w')})`
              : `Hear all transitions, one after the other (${keyFor('w')})`
          "
        >
          <Button @click="playOrStop">{{ playAll.isPlaying.value ? 'Stop' : 'Play all transitions' }}</Button>
        </Tooltip>
        <WarningsButton />
        <span class="gap" />
        <HearButtons :around="around" :piece-of="sound.pieceOf" @hand-over="sound.hearHandOver" />
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
        <Tooltip :title="`One click for both sides, on the beats of the mix (${keyFor('k')})`">
          <label class="switch"
            ><Switch v-model:checked="click" size="small" aria-label="Click on the beats" /> Click</label
          >
        </Tooltip>
        <span class="gap" />
        <span class="together">
          <Segmented v-model:value="snap" :options="SNAPS" size="small" aria-label="Snap" />
        </span>
        <span class="gap" />
        <ZoomButtons whole="The whole overlap" @zoom="(factor) => view.zoom(factor)" @fit="fit" />
      </div>
      <MarksRow @go="goTo" />
      <SeamStage class="stage" @listen="sound.hearFrom" />
    </div>
    <TransitionPanel @compare="comparing = true" />
    <BlindCompare v-model:open="comparing" :around="around" />
  </div>
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
