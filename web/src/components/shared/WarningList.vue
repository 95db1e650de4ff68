<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import type { MixWarning } from '../../api/types'
import { useMix } from '../../stores/mix'

/**
 * Things to look at before rendering: each a sentence, with what would mend it, and to be marked as meant. `places` says
 * whether each tells where it is and leads there.
 */
const { warnings, places = false } = defineProps<{ warnings: MixWarning[]; places?: boolean }>()
const emit = defineEmits<{ went: [] }>()
const mix = useMix()
const route = useRoute()

/** What is meant comes last. */
const ordered = computed(() => [...warnings].sort((a, b) => Number(a.is_meant) - Number(b.is_meant)))

function placeOf(warning: MixWarning) {
  const title = (index: number) => mix.plan?.entries[index]?.title ?? ''
  const params = { mix: String(route.params.mix) }
  if (warning.transition != null)
    return {
      text: `${title(warning.transition)} → ${title(warning.transition + 1)}`,
      to: { name: 'transitions', params: { ...params, number: warning.transition + 1 } },
    }
  const layer = warning.layer == null ? undefined : mix.plan?.layers[warning.layer]
  if (layer)
    return { text: layer.words, to: { name: 'layers', params: { ...params, layer: layer.layer.id } } }
  const entry = mix.plan?.entries[warning.entry ?? 0]
  const isOfGrid = warning.kind === 'grid' || warning.kind === 'no_grid'
  const to = isOfGrid ? { name: 'grid', params: { track: entry?.track_id } } : { name: 'order', params }
  return { text: entry?.title ?? '', to }
}
</script>

<template>
  <ul class="warnings" aria-label="Warnings">
    <li v-for="warning in ordered" :key="warning.key + warning.message" :class="{ meant: warning.is_meant }">
      <RouterLink v-if="places" class="place" :to="placeOf(warning).to" @click="emit('went')">{{
        placeOf(warning).text
      }}</RouterLink>
      <p>{{ warning.message }}</p>
      <div class="acts">
        <template v-if="!warning.is_meant">
          <Button
            v-for="mend in warning.mends"
            :key="mend.label"
            size="small"
            @click="mix.send(mend.command)"
            >{{ mend.label }}</Button
          >
        </template>
        <Button
          v-if="warning.key"
          size="small"
          type="text"
          @click="mix.send({ kind: 'mark_as_meant', key: warning.key, meant: !warning.is_meant })"
          >{{ warning.is_meant ? 'Show again' : 'Ignore' }}</Button
        >
      </div>
    </li>
  </ul>
</template>

<style scoped>
li {
  padding: 8px 10px;
  border-radius: var(--radius);
  background: var(--warn-soft);
  color: var(--warn);
  font-size: 13px;
  line-height: 1.35;
}

li + li {
  margin-top: 6px;
}

.meant {
  background: var(--sunken);
  color: var(--ink-soft);
}

.place {
  font-weight: 600;
  color: inherit;
}

p {
  margin: 0;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-top: 5px;
}
</style>
