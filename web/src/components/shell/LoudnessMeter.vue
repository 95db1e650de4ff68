<script setup lang="ts">
import { computed } from 'vue'
import { useCourse } from '../../composables/mix/useCourse'
import { COURSE_COLUMNS } from '../../composables/mix/useWarnings'
import { RATE } from '../../sound/player'
import { useListening } from '../../stores/listening'
import { useMeter } from '../../stores/meter'
import { useMix } from '../../stores/mix'

/** How loud what is heard is, and what the limiter takes of it. */
const CEILING = -1

const meter = useMeter()
const listening = useListening()
const mix = useMix()
const { data: course } = useCourse(
  computed(() => mix.mix?.id),
  computed(() => mix.mix?.version),
  COURSE_COLUMNS,
)

const number = (value: number | undefined) => (value === undefined ? '–' : value.toFixed(1).replace('-', '−'))
/** As planned, where the mix that is open is heard. */
const taken = computed(() => {
  const piece = listening.piece
  if (!listening.isSounding || piece?.kind !== 'mix' || piece.id !== mix.mix?.id || !mix.plan)
    return undefined
  const limiting = course.value?.limiting
  if (!limiting?.length) return undefined
  const column = Math.floor((listening.position / RATE / mix.plan.duration_s) * limiting.length)
  return limiting[Math.min(column, limiting.length - 1)]
})
</script>

<template>
  <dl class="meter" aria-label="Loudness of what is heard">
    <div title="Short-term loudness: the last three seconds">
      <dt>LUFS</dt>
      <dd>{{ number(meter.shortTerm) }}</dd>
    </div>
    <div title="True peak, held for two seconds" :class="{ over: (meter.peak ?? -99) > CEILING + 0.05 }">
      <dt>peak</dt>
      <dd>{{ number(meter.peak) }}</dd>
    </div>
    <div title="What the limiter takes here, in dB, as planned" :class="{ busy: (taken ?? 0) > 2 }">
      <dt>limiter</dt>
      <dd>{{ taken === undefined ? '–' : taken >= 0.05 ? `−${taken.toFixed(1)}` : '0' }}</dd>
    </div>
  </dl>
</template>

<style scoped>
.meter {
  display: flex;
  gap: 12px;
  margin: 0;
  font-variant-numeric: tabular-nums;
}

.meter div {
  min-width: 38px;
}

dt {
  color: var(--ink-faint);
  font-size: 11px;
  line-height: 13px;
}

dd {
  margin: 0;
  line-height: 17px;
}

.over dd,
.busy dd {
  color: var(--warn);
  font-weight: 600;
}

@media (max-width: 1000px) {
  .meter {
    display: none;
  }
}
</style>
