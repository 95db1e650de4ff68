<script setup lang="ts">
import { Button, Segmented, Skeleton } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { askTexts } from '../shared/askTexts'
import { attempt } from '../../composables/page/attempt'
import { useKeyNotation } from '../../composables/page/preferences'
import { useFits, useLibraryActions } from '../../composables/library/useLibrary'
import { useTryTwo } from '../../composables/mix/useTryTwo'
import type { ListedTrack } from '../../library/trackTable'
import { tempoOf } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'

/** What goes well after a track, or before it, the best first, each with its reasons. */
const props = defineProps<{ track: ListedTrack | undefined; byId: ReadonlyMap<string, ListedTrack> }>()
const emit = defineEmits<{ close: []; go: [id: string]; listen: [id: string] }>()

const WAYS = [
  { value: 'after', label: 'After it' },
  { value: 'before', label: 'Before it' },
]
const SHOWN = 60

const way = ref('after')
const before = computed(() => way.value === 'before')
const id = computed(() => props.track?.id)
const { data: found, isPending } = useFits(id, before)
const actions = useLibraryActions()
const tryTwo = useTryTwo()
const { keyOf } = useKeyNotation()

const rows = computed(() =>
  (found.value ?? [])
    .slice(0, SHOWN)
    .map((fit) => ({ fit, track: props.byId.get(fit.id) }))
    .filter((r) => r.track !== undefined),
)

function tryWith(other: string) {
  const [first, second] = before.value ? [other, id.value!] : [id.value!, other]
  void tryTwo(first, second)
}

/** Note that two go well together, and why, or take the note away. */
function togglePair(other: string, paired: boolean) {
  const [first, second] = before.value ? [other, id.value!] : [id.value!, other]
  if (paired) return void attempt(() => actions.unpair(first, second))
  askTexts({
    title: 'They go well together',
    ok: 'Pair them',
    fields: [{ label: 'Note', maxLength: 500, placeholder: 'Why, or where (may stay empty)' }],
    use: ([note]) => attempt(() => actions.pair(first, second, note!)),
  })
}
</script>

<template>
  <aside class="pane" aria-label="What fits">
    <header>
      <h2>What fits</h2>
      <Segmented v-model:value="way" :options="WAYS" size="small" aria-label="Before or after" />
      <button type="button" class="close" aria-label="Close" @click="emit('close')">
        <GlyphIcon name="close" :size="13" />
      </button>
    </header>
    <p v-if="!track" class="soft padded">Choose a track to see what goes well with it.</p>
    <template v-else>
      <p class="padded what">
        <strong class="clip">{{ track.title }}</strong>
        <span class="soft">{{ track.bpm === null ? '' : `${tempoOf(track)} · ` }}{{ keyOf(track) }}</span>
      </p>
      <Skeleton v-if="isPending" class="padded" active :paragraph="{ rows: 6 }" :title="false" />
      <p v-else-if="!rows.length" class="soft padded">No track lies within reach of its tempo.</p>
      <ol v-else class="fits">
        <li v-for="r in rows" :key="r.fit.id">
          <button type="button" class="name" @click="emit('go', r.fit.id)">
            <strong class="clip">{{ r.track!.title }}</strong>
            <span class="soft">{{ tempoOf(r.track!) }} · {{ keyOf(r.track!) }}</span>
            <span class="reasons soft">{{ r.fit.reasons.join(' · ') }}</span>
          </button>
          <button
            type="button"
            class="small"
            :aria-label="`Listen to ${r.track!.title}`"
            @click="emit('listen', r.fit.id)"
          >
            <GlyphIcon name="play" :size="12" />
          </button>
          <Button size="small" title="Hear these two mixed" @click="tryWith(r.fit.id)">Try</Button>
          <Button
            size="small"
            :type="r.fit.paired ? 'primary' : 'default'"
            :aria-pressed="r.fit.paired"
            :title="r.fit.paired ? 'They go well together, you said' : 'Note that they go well together'"
            @click="togglePair(r.fit.id, r.fit.paired)"
            >{{ r.fit.paired ? 'Paired' : 'Pair' }}</Button
          >
        </li>
      </ol>
    </template>
  </aside>
</template>

<style scoped>
.pane {
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-left: 1px solid var(--line);
  background: var(--sheet);
}

header {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 10px 12px 8px;
}

.close {
  margin-left: auto;
  padding: 2px 4px;
  border: 0;
  background: none;
  color: var(--ink-soft);
  cursor: pointer;
}

.padded {
  margin: 0;
  padding: 4px 12px;
}

.what {
  display: flex;
  flex-direction: column;
  padding-bottom: 10px;
  border-bottom: 1px solid var(--line);
}

.fits {
  flex: 1;
  min-height: 0;
  margin: 0;
  overflow: auto;
  padding: 0;
}

li {
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 6px 10px 6px 12px;
  border-bottom: 1px solid var(--line);
}

.name {
  display: grid;
  flex: 1;
  grid-template-columns: 1fr auto;
  gap: 0 8px;
  min-width: 0;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.reasons {
  grid-column: 1 / -1;
  font-size: 12px;
  line-height: 1.25;
}

.small {
  width: 24px;
  padding: 4px 0;
  border: 0;
  background: none;
  color: var(--fern);
  cursor: pointer;
}
</style>
