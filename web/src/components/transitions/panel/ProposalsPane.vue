<script setup lang="ts">
import { Button } from 'ant-design-vue'
import type { Placing } from '../../../api/types'
import { useTransition } from '../../../composables/transition/useTransition'
import { useTrials } from '../../../composables/mix/useTrials'
import { useMix } from '../../../stores/mix'
import { barBeat } from '../../../time/format'
import FoldSection from '../../shared/FoldSection.vue'
import GlyphIcon from '../../shared/GlyphIcon.vue'

/** Where this transition could lie, the best first: why, how it sounds, and taken by a click. */
const { planned, outgoing, incoming, pair, proposals, pointed } = useTransition()
const mix = useMix()
const trials = useTrials()

function commandOf({ out_at, in_at, beats }: Placing) {
  return { kind: 'use_proposal' as const, ...pair.value, out_at, in_at, beats }
}
</script>

<template>
  <FoldSection
    name="proposals"
    title="Suggested places"
    :summary="proposals?.length ? `${proposals.length} places` : 'no place is known'"
    starts-open
  >
    <ol v-if="proposals?.length" class="proposals" aria-label="Proposed places">
      <li
        v-for="(p, i) in proposals"
        :key="`${p.out_at} ${p.in_at} ${p.beats}`"
        :class="{ here: p.is_this }"
        @pointerenter="pointed = p"
        @pointerleave="pointed = undefined"
      >
        <div class="what">
          <span class="words"
            ><strong>{{ p.reasons[0] }}</strong
            >{{ p.reasons.length > 1 ? `; ${p.reasons.slice(1).join('; ')}` : '' }}.</span
          >
          <span class="faint"
            >bar {{ barBeat(p.out_at, outgoing.clock.bars) }} on bar
            {{ barBeat(p.in_at, incoming.clock.bars) }}</span
          >
        </div>
        <div class="acts">
          <Button
            size="small"
            :aria-label="`Hear proposal ${i + 1}`"
            title="Hear it; nothing is changed"
            @click="trials.hear(commandOf(p), planned.index)"
            ><GlyphIcon name="play" :size="11"
          /></Button>
          <span v-if="p.is_this" class="soft">here</span>
          <Button
            v-else
            size="small"
            :aria-label="`Use proposal ${i + 1}`"
            @focus="pointed = p"
            @blur="pointed = undefined"
            @click="mix.send(commandOf(p))"
            >Use</Button
          >
        </div>
      </li>
    </ol>
    <p v-else class="soft">Without a checked grid of both tracks there is nothing to propose.</p>
  </FoldSection>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 8px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
  font-size: 12.5px;
  line-height: 1.3;
}

li:first-child {
  border-top: 0;
}

.here strong {
  color: var(--fern);
}

.what {
  display: flex;
  flex-direction: column;
}

.acts {
  display: flex;
  align-items: flex-start;
  gap: 4px;
}
</style>
