<script setup lang="ts">
import { Button, Segmented, Switch, Tooltip } from 'ant-design-vue'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import CourseRibbon from '../components/shared/CourseRibbon.vue'
import GlyphIcon from '../components/shared/GlyphIcon.vue'
import MixStates from '../components/shell/MixStates.vue'
import SeamStage from '../components/transitions/SeamStage.vue'
import TransitionPanel from '../components/transitions/panel/TransitionPanel.vue'
import { mixPiece, transitionPiece, type Heard } from '../sound/pieces'
import { useKeys } from '../composables/useKeys'
import { useSides } from '../composables/useSides'
import type { Place, Snap } from '../composables/usePlacing'
import { RATE } from '../sound/player'
import { useFresh } from '../stores/fresh'
import { useListening } from '../stores/listening'
import { useMix } from '../stores/mix'

const CLICK_DB = -9
const SNAPS = [
  { value: 'bar', label: 'Bar' },
  { value: 'beat', label: 'Beat' },
  { value: 'none', label: 'Free' },
]
const HEARD: { value: Heard; label: string; key: string }[] = [
  { value: 'outgoing', label: 'Outgoing alone', key: 'o' },
  { value: 'both', label: 'Both', key: 'b' },
  { value: 'incoming', label: 'Incoming alone', key: 'i' },
]

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

function choose(next: number) {
  if (next < 0 || next >= count.value) return
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

function hear(heard: Heard, fromSeconds?: number) {
  if (!mix.mix || !mix.clock || !planned.value) return
  const piece = transitionPiece(mix.mix, mix.clock, planned.value, heard, clicks.value)
  listening.play(piece, fromSeconds === undefined ? piece.start : Math.round(fromSeconds * RATE))
}

/** Hear this transition from a place in it; the mix from there where the place lies outside. */
function hearFrom(seconds: number) {
  if (!mix.mix || !mix.clock || !planned.value) return
  const piece = transitionPiece(mix.mix, mix.clock, planned.value, 'both', clicks.value)
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
  ...HEARD.map((h) => ({ keys: [h.key], label: `Hear ${h.label.toLowerCase()}`, run: () => hear(h.value) })),
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
        <CourseRibbon :chosen="index" :playhead="playhead" @choose="choose" @listen="hearMix" />
        <div class="tools">
          <Tooltip title="Previous transition (P)">
            <Button aria-label="Previous transition" :disabled="index === 0" @click="choose(index - 1)"
              ><GlyphIcon name="left"
            /></Button>
          </Tooltip>
          <span class="number">{{ index + 1 }} of {{ count }}</span>
          <Tooltip title="Next transition (N)">
            <Button aria-label="Next transition" :disabled="index === count - 1" @click="choose(index + 1)"
              ><GlyphIcon name="right"
            /></Button>
          </Tooltip>
          <Tooltip v-if="fresh.places.length" title="The next that was made new by a change of the order (M)">
            <Button size="small" @click="nextNew">{{ fresh.places.length }} new</Button>
          </Tooltip>
          <span class="gap" />
          <span class="hear" role="group" aria-label="Listen">
            <Tooltip
              v-for="h in HEARD"
              :key="h.value"
              :title="`From 8 beats before to 8 after (${h.key.toUpperCase()})`"
            >
              <Button :type="h.value === 'both' ? 'primary' : 'default'" @click="hear(h.value)">
                <GlyphIcon name="play" :size="13" /> {{ h.label }}
              </Button>
            </Tooltip>
          </span>
          <span class="gap" />
          <Tooltip title="One click for both sides, on the beats of the mix (K)">
            <label class="switch"
              ><Switch v-model:checked="click" size="small" aria-label="Click on the beats" /> Click</label
            >
          </Tooltip>
          <span class="gap" />
          <span class="together">
            <span class="soft">Snap</span>
            <Segmented v-model:value="snap" :options="SNAPS" size="small" aria-label="Snap" />
          </span>
          <span class="gap" />
          <Tooltip title="Smaller (−)"
            ><Button size="small" aria-label="Zoom out" @click="stage?.zoom(1 / 1.5)"
              ><GlyphIcon name="minus" /></Button
          ></Tooltip>
          <Tooltip title="Larger (+)"
            ><Button size="small" aria-label="Zoom in" @click="stage?.zoom(1.5)"
              ><GlyphIcon name="plus" /></Button
          ></Tooltip>
          <Tooltip title="The whole overlap (0)"
            ><Button size="small" @click="stage?.fit()">Fit</Button></Tooltip
          >
        </div>
        <SeamStage
          ref="stage"
          class="stage"
          :planned="planned"
          :axis="axis"
          :outgoing="outgoing"
          :incoming="incoming"
          :snap="snap"
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
        @use="useTake"
      />
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

.number {
  min-width: 50px;
  text-align: center;
  white-space: nowrap;
}

.hear {
  display: flex;
  gap: 4px;
}

.hear :deep(.ant-btn) {
  padding: 0 9px;
}

.stage {
  flex: 1;
  min-height: 0;
  border-top: 1px solid var(--line);
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

  .hear {
    flex-wrap: wrap;
  }
}
</style>
