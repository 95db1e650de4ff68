<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { Command, Proposal } from '../../api/types'
import { useTrials } from '../../composables/mix/useTrials'
import { weighed } from '../../time/appraisal'
import { pointOfSeat, type Range } from '../../time/profile'
import { AIMS } from '../../time/shapes'
import { isJump, nearnessOf, semitones } from '../../time/steps'
import { bpm } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'
import KeyDots from './KeyDots.vue'
import OrderProfiles from './OrderProfiles.vue'

const HEIGHT = 168
const COLUMN = 58
const MOST_ROW = 22

/** An order beside the others: its profiles, its numbers against the present one, its seams to be heard. */
const props = defineProps<{
  proposal: Proposal
  present: Proposal
  ranges: Record<'bpm' | 'walk' | 'energy', Range>
  isPresent?: boolean
}>()
const emit = defineEmits<{ use: [command: Command] }>()
const { hear } = useTrials()

const name = computed(() =>
  props.isPresent ? 'As it is' : props.proposal.aims.map((a) => AIMS[a]).join(', '),
)
const points = computed(() => props.proposal.seats.map(pointOfSeat))
const rowHeight = computed(() => Math.min(MOST_ROW, HEIGHT / Math.max(1, points.value.length)))
const numbers = computed(() => weighed(props.proposal.appraisal, props.present.appraisal))
const command = computed<Command>(() => ({
  kind: 'use_order',
  seats: props.proposal.seats.map((s) => s.seat),
}))
/** The best order may be the one that there is. */
const isSame = computed(() => {
  const seated = (p: Proposal) => p.seats.map((s) => `${s.seat.entry_id} ${s.seat.key_shift} ${s.seat.count}`)
  return seated(props.proposal).join() === seated(props.present).join()
})
const proof = computed(() => {
  const { gap } = props.proposal
  if (gap === null) return 'how near to the best possible is not known'
  if (gap < 0.0005) return 'proven: none is better'
  return `within ${gap < 0.1 ? (gap * 100).toFixed(1) : Math.round(gap * 100)} % of the best possible`
})
</script>

<template>
  <article class="proposal" :aria-label="name">
    <header>
      <h3>{{ name }}</h3>
      <span class="soft">{{ isPresent ? 'the order that there is' : proof }}</span>
    </header>
    <div class="picture" :style="{ height: `${HEIGHT}px` }">
      <OrderProfiles
        :points="points"
        :ranges="ranges"
        :shown="points.map((_, i) => i)"
        :row-height="rowHeight"
        :line-height="rowHeight * 0.7"
        :column="COLUMN"
      />
    </div>
    <dl>
      <template v-for="n in numbers" :key="n.label">
        <dt :title="n.title">{{ n.label }}</dt>
        <dd :class="n.verdict">
          <span v-if="n.verdict !== 'same'" class="sign"
            >{{ n.verdict === 'better' ? '✓' : '✗' }}<span class="unseen">{{ n.verdict }}</span></span
          >
          {{ n.text }}
        </dd>
      </template>
    </dl>
    <p v-if="proposal.left_out.length" class="out soft" :title="proposal.left_out.join('\n')">
      Left out: {{ proposal.left_out.join(', ') }}
    </p>
    <Button
      v-if="!isPresent"
      type="primary"
      block
      size="small"
      :disabled="isSame"
      @click="emit('use', command)"
      >{{ isSame ? 'It is in this order' : 'Use this order' }}</Button
    >
    <div v-else class="in-place" />
    <ol class="seats" :aria-label="`Tracks: ${name}`">
      <li v-for="(seat, i) in proposal.seats" :key="i">
        <button
          v-if="seat.step"
          type="button"
          class="seam"
          :class="{ jump: isJump(seat.step) }"
          :aria-label="`Listen to ${proposal.seats[i - 1]!.title} into ${seat.title}`"
          :title="`${seat.step.key_words} · ${seat.step.tempo_words}`"
          @click="hear(command, i - 1)"
        >
          <GlyphIcon name="play" :size="9" /><KeyDots :nearness="nearnessOf(seat.step)" />
          <span class="clip">{{ seat.step.tempo_words.split(',')[0] }}</span>
        </button>
        <span class="title">
          <span class="clip" :title="seat.title">{{ i + 1 }}. {{ seat.title }}</span>
          <span v-if="seat.is_new" class="new">comes in</span>
          <span v-if="seat.seat.key_shift" class="new">{{ semitones(seat.seat.key_shift) }}</span>
          <span class="soft">{{ seat.bpm === null ? '' : bpm(seat.bpm) }} {{ seat.key ?? '' }}</span>
        </span>
      </li>
    </ol>
  </article>
</template>

<style scoped>
.proposal {
  display: flex;
  flex: 1 0 186px;
  flex-direction: column;
  gap: 6px;
  min-width: 186px;
  max-width: 240px;
  padding: 8px 10px;
  border-right: 1px solid var(--line);
}

header {
  display: flex;
  flex-direction: column;
  min-height: 54px;
  line-height: 1.25;
}

h3 {
  margin: 0;
  font-size: 14px;
}

header .soft {
  font-size: 12px;
}

.picture {
  overflow: hidden;
  flex: none;
  background: var(--ground);
}

dl {
  display: grid;
  grid-template-columns: minmax(0, 1fr) max-content;
  gap: 1px 8px;
  margin: 0;
  font-size: 12.5px;
  line-height: 1.4;
}

dt {
  color: var(--ink-soft);
}

dd {
  margin: 0;
  text-align: right;
}

.better {
  color: var(--fern);
  font-weight: 600;
}

.worse {
  color: var(--warn);
}

.sign {
  font-weight: 600;
}

.unseen {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}

.out {
  max-height: 54px;
  margin: 0;
  overflow: auto;
  font-size: 12px;
  line-height: 1.3;
}

.in-place {
  height: 24px;
}

.seats {
  margin: 0;
  padding: 0;
  font-size: 12.5px;
}

.title {
  display: flex;
  gap: 6px;
}

.title .clip {
  flex: 1;
}

.title .soft {
  font-size: 12px;
  white-space: nowrap;
}

.new {
  padding: 0 4px;
  border-radius: 3px;
  background: var(--fern-soft);
  color: var(--fern);
  font-size: 11.5px;
  white-space: nowrap;
}

.seam {
  display: flex;
  align-items: center;
  gap: 4px;
  width: 100%;
  min-height: 18px;
  padding: 0 0 0 4px;
  border: 0;
  background: none;
  color: var(--ink-soft);
  font: inherit;
  font-size: 11.5px;
  cursor: pointer;
}

.seam :deep(.glyph) {
  margin: 0;
  color: var(--fern);
}

.seam:hover {
  background: var(--sunken);
}

.seam.jump {
  color: var(--warn);
}
</style>
