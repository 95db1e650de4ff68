<script setup lang="ts">
import { Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import type { Entry, PlannedTransition } from '../../api/types'
import { useWarnings } from '../../composables/mix/useWarnings'
import { transitionPiece } from '../../sound/pieces'
import { RATE } from '../../sound/player'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'
import { barsLong, secondsLong } from '../../time/format'
import { isJump, nearnessOf } from '../../time/steps'
import GlyphIcon from '../shared/GlyphIcon.vue'
import KeyDots from './KeyDots.vue'
import SmallSeam from './SmallSeam.vue'
import { keyFor } from '../../composables/page/useKeys'

/** What lies between two rows: how they relate in tempo, key and energy, how they meet, and what is doubtful. */
const props = defineProps<{
  planned: PlannedTransition
  out: Entry
  into: Entry
  isNew: boolean
  /** Kept together with the next: the bracket goes on beside it. */
  isKept: boolean
}>()
const emit = defineEmits<{ bridge: [] }>()

const mix = useMix()
const listening = useListening()
const route = useRoute()

const step = computed(() => props.planned.step)
const how = computed(() => {
  const t = props.planned.transition
  if (t.kind === 'cut') return t.lead ? `Cut, led into by ${barsLong(t.lead, props.out.bar)}` : 'Clean cut'
  if (t.kind === 'fade') return `Fade of ${secondsLong(t.seconds)}`
  if (t.kind === 'apart') return `Apart by ${secondsLong(t.seconds)}`
  return `${barsLong(t.beats, props.out.bar)} overlap`
})
const all = useWarnings()
const warnings = computed(() =>
  all.value.filter(
    (s) => !s.is_meant && (s.transition === props.planned.index || s.entry === props.out.index),
  ),
)
const playhead = computed(() => (mix.mix ? listening.secondsIn('mix', mix.mix.id) : undefined))

function listen(seconds: number) {
  if (!mix.mix || !mix.clock) return
  const piece = transitionPiece(mix.mix, mix.clock, props.planned)
  const frame = Math.round(seconds * RATE)
  listening.play(piece, frame >= piece.start && frame < piece.end ? frame : piece.start)
}
</script>

<template>
  <div class="meeting" :class="{ jump: isJump(step), kept: isKept }">
    <SmallSeam
      :planned="planned"
      :label="`Listen to ${out.title} into ${into.title}`"
      :playhead="playhead"
      @listen="listen"
    />
    <div class="words">
      <span class="key clip" :class="{ warn: step.relation === 'clash' }" :title="step.key_words"
        ><KeyDots :nearness="nearnessOf(step)" />{{ step.key_words }}</span
      >
      <span class="clip soft" :title="`${step.tempo_words}; ${step.energy_words}`"
        ><span :class="{ warn: step.is_leap }">{{ step.tempo_words }}</span> · {{ step.energy_words }}</span
      >
    </div>
    <div class="state">
      <RouterLink
        class="how"
        :to="{ name: 'transitions', params: { mix: String(route.params.mix), number: planned.index + 1 } }"
        >{{ how }}</RouterLink
      >
      <span class="flags">
        <span v-if="isNew" class="new">new</span>
        <Tooltip v-if="step.pairing !== null" :title="step.pairing || 'Saved as going well together'"
          ><span class="paired">paired</span></Tooltip
        >
        <span v-if="warnings.length" class="warn" :title="warnings.map((s) => s.message).join('\n')"
          ><GlyphIcon name="flag" :size="13" />
          {{ warnings.length === 1 ? '1 warning' : `${warnings.length} warnings` }}</span
        >
      </span>
    </div>
    <button
      type="button"
      class="over"
      :aria-label="`Bridge from ${out.title} to ${into.title}`"
      :title="`What would bridge this jump (${keyFor('b')})`"
      @click.stop="emit('bridge')"
    >
      Bridge
    </button>
  </div>
</template>

<style scoped>
.meeting {
  position: relative;
  display: grid;
  grid-template-columns: 168px minmax(0, 1fr) max-content 54px;
  align-items: center;
  gap: 10px;
  height: 44px;
  padding: 0 6px 0 40px;
  font-size: 12.5px;
  line-height: 1.3;
}

.meeting.kept::before {
  position: absolute;
  top: 0;
  bottom: 0;
  left: 3px;
  width: 3px;
  background: var(--fern);
  content: '';
}

.words,
.state {
  display: flex;
  flex-direction: column;
  min-width: 0;
}

.key {
  display: flex;
  align-items: center;
  gap: 5px;
}

.state {
  align-items: flex-end;
}

.how {
  color: var(--fern);
}

.flags {
  display: flex;
  gap: 8px;
}

.new,
.paired {
  padding: 0 5px;
  border-radius: 3px;
  background: var(--fern-soft);
  color: var(--fern);
}

.over {
  height: 26px;
  padding: 0 6px;
  border: 1px solid transparent;
  border-radius: var(--radius);
  background: none;
  color: var(--ink-soft);
  font: inherit;
  cursor: pointer;
}

.over:hover {
  border-color: var(--line-strong);
  background: var(--sheet);
}

.jump .over {
  border-color: var(--warn);
  color: var(--warn);
}

@media (max-width: 1180px) {
  .meeting {
    grid-template-columns: 110px minmax(0, 1fr) max-content 50px;
    gap: 6px;
    padding-left: 30px;
  }
}
</style>
