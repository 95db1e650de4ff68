<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import type { Snag } from '../../api/types'
import { useMix } from '../../stores/mix'

/**
 * Things to look at before rendering: each a sentence, with what would mend it, and to be marked as meant. `places` says
 * whether each tells where it is and leads there.
 */
const { snags, places = false } = defineProps<{ snags: Snag[]; places?: boolean }>()
const emit = defineEmits<{ went: [] }>()
const mix = useMix()
const route = useRoute()

/** What is meant comes last. */
const ordered = computed(() => [...snags].sort((a, b) => Number(a.is_meant) - Number(b.is_meant)))

function placeOf(snag: Snag) {
  const title = (index: number) => mix.plan?.entries[index]?.title ?? ''
  const params = { mix: String(route.params.mix) }
  if (snag.transition != null)
    return {
      text: `${title(snag.transition)} → ${title(snag.transition + 1)}`,
      to: { name: 'transitions', params: { ...params, number: snag.transition + 1 } },
    }
  const layer = snag.layer == null ? undefined : mix.plan?.layers[snag.layer]
  if (layer)
    return { text: layer.words, to: { name: 'layers', params: { ...params, layer: layer.layer.id } } }
  const entry = mix.plan?.entries[snag.entry ?? 0]
  const isOfGrid = snag.kind === 'grid' || snag.kind === 'no_grid'
  const to = isOfGrid ? { name: 'grid', params: { track: entry?.track_id } } : { name: 'order', params }
  return { text: entry?.title ?? '', to }
}
</script>

<template>
  <ul class="snags" aria-label="Snags">
    <li v-for="snag in ordered" :key="snag.key + snag.message" :class="{ meant: snag.is_meant }">
      <RouterLink v-if="places" class="place" :to="placeOf(snag).to" @click="emit('went')">{{
        placeOf(snag).text
      }}</RouterLink>
      <p>{{ snag.message }}</p>
      <div class="acts">
        <template v-if="!snag.is_meant">
          <Button v-for="mend in snag.mends" :key="mend.label" size="small" @click="mix.send(mend.command)">{{
            mend.label
          }}</Button>
        </template>
        <Button
          v-if="snag.key"
          size="small"
          type="text"
          @click="mix.send({ kind: 'mark_as_meant', key: snag.key, meant: !snag.is_meant })"
          >{{ snag.is_meant ? 'not meant after all' : 'it is meant' }}</Button
        >
      </div>
    </li>
  </ul>
</template>

<style scoped>
.snags {
  margin: 0;
  padding: 0;
  list-style: none;
}

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
