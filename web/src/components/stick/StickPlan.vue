<script setup lang="ts">
import { computed } from 'vue'
import type { StickPlan } from '../../api/types'
import { megabytes } from '../../time/format'

/** What filling the stick would do: how much of it is new, and what is converted and why. */
const props = defineProps<{ plan: StickPlan }>()

const count = (action: string) => props.plan.files.filter((f) => f.action === action).length
const sums = computed(() =>
  [
    [count('copy'), 'copied'],
    [count('convert'), 'converted'],
    [count('keep'), 'there already'],
    [props.plan.gone, 'taken off'],
    [count('skip'), 'left out'],
  ].filter(([n]) => n),
)
const converted = computed(() => props.plan.files.filter((f) => f.action === 'convert'))
const skipped = computed(() => props.plan.files.filter((f) => f.action === 'skip'))
const full = computed(() => Math.min(1, props.plan.needs / Math.max(props.plan.free, 1)))
</script>

<template>
  <div class="plan">
    <p class="soft">
      {{ plan.player ? `‘${plan.player}’ plays` : 'No player known yet: most play' }}
      {{ plan.kinds.map((k) => k.toUpperCase()).join(', ') }}.
    </p>
    <dl>
      <template v-for="[n, word] in sums" :key="word">
        <dt>{{ n }}</dt>
        <dd>{{ word }}</dd>
      </template>
    </dl>
    <div class="room" role="img" :aria-label="`${megabytes(plan.needs)} of ${megabytes(plan.free)} free`">
      <span :style="{ width: `${full * 100}%` }" :class="{ bad: plan.problem }" />
    </div>
    <p class="soft">{{ megabytes(plan.needs) }} to write, {{ megabytes(plan.free) }} free.</p>
    <p v-if="plan.problem" class="bad" role="alert">{{ plan.problem }}</p>
    <p v-for="note in plan.notes" :key="note" class="bad">{{ note }}</p>
    <template v-if="skipped.length">
      <p>These tracks cannot go onto it:</p>
      <ul>
        <li v-for="f in skipped" :key="f.track_id">
          <strong>{{ f.title }}</strong> {{ f.reason }}
        </li>
      </ul>
    </template>
    <details v-if="converted.length">
      <summary>Why {{ converted.length === 1 ? 'one is' : `${converted.length} are` }} converted</summary>
      <ul>
        <li v-for="f in converted" :key="f.track_id">
          <strong>{{ f.title }}</strong> {{ f.reason }}
        </li>
      </ul>
    </details>
  </div>
</template>

<style scoped>
p {
  margin: 4px 0;
}

dl {
  display: grid;
  grid-template-columns: 34px 1fr;
  gap: 2px 8px;
  margin: 8px 0;
}

dt {
  text-align: right;
  font-weight: 600;
}

dd {
  margin: 0;
}

.room {
  height: 8px;
  overflow: hidden;
  border-radius: 4px;
  background: var(--sunken);
}

.room span {
  display: block;
  height: 100%;
  background: var(--fern);
}

.room .bad {
  background: var(--bad);
}

ul {
  margin: 4px 0 0;
  padding-left: 18px;
  list-style: disc;
}
</style>
