<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, toRef } from 'vue'
import type { Edit, Entry, TrackGrid } from '../../api/types'
import type { Editing } from '../../composables/edits/useEditing'
import { useKeptEdits } from '../../composables/edits/useKeptEdits'
import { useMix } from '../../stores/mix'
import { newId } from '../../time/cues'
import { barBeat, barsLong } from '../../time/format'

/** What the track itself offers: its saved loops, to be repeated at once, and edits that were kept with it. */
const props = defineProps<{ entry: Entry; track: TrackGrid; editing: Editing }>()
const mix = useMix()
const { kept, keep } = useKeptEdits(toRef(props, 'entry'))

const bar = computed(() => props.track.grid.beats_per_bar)
const loops = computed(() =>
  props.track.loops.map((loop) => ({
    loop,
    text: `${loop.name || 'Loop'}, bar ${barBeat(loop.start, props.editing.bars.value)}, ${barsLong(loop.beats, bar.value)}`,
  })),
)
const mine = computed(() => props.editing.edits.value)
const isKept = computed(() => JSON.stringify(mine.value) === JSON.stringify(kept.value))

function repeat({ start, beats }: TrackGrid['loops'][number], times: number | null) {
  const edit: Edit = { kind: 'repeat', id: newId(), start, end: start + beats, times, on: true }
  void props.editing.change(edit)
}
const use = () => mix.send({ kind: 'put_edits', entry_id: props.entry.id, edits: kept.value })
</script>

<template>
  <section v-if="loops.length" aria-label="Loops of this track">
    <h3>Repeat a loop</h3>
    <p v-for="{ loop, text } in loops" :key="loop.id" class="offer">
      <span class="clip" :title="text">{{ text }}</span>
      <Button size="small" :aria-label="`Hear ${text} twice`" @click="repeat(loop, 2)">× 2</Button>
      <Button
        size="small"
        :aria-label="`Repeat ${text} until the end of the overlap`"
        title="Until the end of the overlap"
        @click="repeat(loop, null)"
        >to the end</Button
      >
    </p>
  </section>
  <section v-if="mine.length || kept.length" aria-label="Kept with the track">
    <h3>Kept with the track</h3>
    <p class="offer">
      <span class="soft">{{
        kept.length ? `${kept.length} edit${kept.length === 1 ? '' : 's'}, offered in every mix` : 'none'
      }}</span>
      <Button v-if="kept.length && !isKept" size="small" @click="use">Use them</Button>
      <Button
        v-if="mine.length && !isKept"
        size="small"
        title="Offers these edits wherever this track is used"
        @click="keep([...mine])"
        >Keep these</Button
      >
      <Button v-if="kept.length" size="small" type="text" @click="keep([])">forget</Button>
    </p>
  </section>
</template>

<style scoped>
.offer {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 5px;
  margin: 3px 0 0;
  font-size: 12.5px;
}

.offer span {
  flex: 1;
  min-width: 90px;
}
</style>
