<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { Take } from '../../../api/types'
import { useTransition } from '../../../composables/transition/useTransition'
import { useMix } from '../../../stores/mix'
import FoldSection from '../../shared/FoldSection.vue'
import TextField from '../../shared/TextField.vue'

/** The versions of a transition that were kept: to go back to, and to compare. */
const { planned, pair } = useTransition()
const emit = defineEmits<{ compare: [] }>()
const mix = useMix()

const takes = computed(() => planned.value.takes)
const isNew = computed(() => !takes.value.some((t) => t.is_this))
const summary = computed(() =>
  takes.value.length ? `${takes.value.length} saved` : 'save this one, then try another',
)
const nameOf = (take: Take) => take.name || `Take ${take.number}`
</script>

<template>
  <FoldSection name="takes" title="Takes" :summary="summary" starts-open>
    <ul v-if="takes.length" class="takes" aria-label="Takes">
      <li v-for="take in takes" :key="take.number" :class="{ now: take.is_this }">
        <button
          type="button"
          class="use"
          :aria-pressed="take.is_this"
          :title="take.is_this ? 'This is how it is now' : 'Use this take; what is now is kept'"
          @click="mix.send({ kind: 'use_take', ...pair, number: take.number })"
        >
          {{ take.number }}
        </button>
        <TextField
          :value="take.name"
          :label="`Name of take ${take.number}`"
          :placeholder="nameOf(take)"
          @send="(name) => mix.send({ kind: 'describe_take', ...pair, number: take.number, name })"
        />
        <Button
          type="text"
          size="small"
          :aria-label="`Forget ${nameOf(take)}`"
          title="Forget this take"
          @click="mix.send({ kind: 'drop_take', ...pair, number: take.number })"
          >×</Button
        >
        <TextField
          class="note"
          :value="take.note"
          :longest="500"
          :label="`Note on take ${take.number}`"
          placeholder="a note"
          @send="(note) => mix.send({ kind: 'describe_take', ...pair, number: take.number, note })"
        />
      </li>
    </ul>
    <div class="acts">
      <Button size="small" :disabled="!isNew" @click="mix.send({ kind: 'keep_take', ...pair, name: '' })"
        >Save take</Button
      >
      <Button size="small" :disabled="takes.length < 2" @click="emit('compare')">Compare blind</Button>
    </div>
  </FoldSection>
</template>

<style scoped>
.takes {
  margin: 0 0 8px;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 26px 1fr 26px;
  align-items: center;
  gap: 3px 6px;
  padding: 3px 0;
}

.use {
  height: 24px;
  padding: 0;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink);
  cursor: pointer;
}

.now .use {
  border-color: var(--fern);
  background: var(--fern);
  color: var(--sheet);
  font-weight: 600;
}

.note {
  grid-column: 2;
  font-size: 12px;
}

.acts {
  display: flex;
  gap: 6px;
}
</style>
