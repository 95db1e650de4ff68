<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import { computed } from 'vue'
import type { Track } from '../../api/types'
import type { ListedTrack } from '../../library/trackTable'
import { keyFor, useKeys } from '../../composables/page/useKeys'
import { useMarkup } from '../../stores/markup'
import { bpm } from '../../time/format'
import UndoButtons from '../shared/UndoButtons.vue'
import MarkFileBox from './MarkFileBox.vue'
import TrackFacts from './TrackFacts.vue'
import TrackPicker from './TrackPicker.vue'

const { track, tracks } = defineProps<{ track: Track | undefined; tracks: readonly ListedTrack[] }>()
const emit = defineEmits<{ choose: [id: string]; check: [] }>()

/** A track that ends at a tempo that differs by more than this share from its first has both written. */
const ANOTHER = 0.03

const markup = useMarkup()
const checked = computed(() => markup.track?.markup.checked ?? false)
const tempo = computed(() => {
  const grid = markup.track?.markup.grid
  if (!grid || !markup.track?.mean_bpm) return 'no grid'
  const steady = grid.anchors.length === 1 && grid.bpm_before === grid.bpm_after
  const ends =
    markup.beats && track && [0, track.duration_s].map((s) => markup.beats!.bpmAt(markup.beats!.beatAt(s)))
  if (ends && Math.abs(ends[1]! / ends[0]! - 1) > ANOTHER) return `${bpm(ends[0]!)} → ${bpm(ends[1]!)} BPM`
  return `${steady ? '' : '≈ '}${bpm(markup.track.mean_bpm)} BPM`
})
const state = computed(() => {
  if (checked.value) return 'checked by you'
  return markup.track?.markup.by_hand ? 'changed by you' : 'as analysed'
})

/** The next track that has something to look at, after this one in the list. */
const nextDoubtful = computed(() => {
  const at = tracks.findIndex((t) => t.id === track?.id)
  const order = [...tracks.slice(at + 1), ...tracks.slice(0, Math.max(at, 0))]
  return order.find((t) => t.doubts.length && !t.checked)
})
useKeys('Tracks to check', [
  {
    keys: ['N'],
    label: 'Next track to check',
    run: () => nextDoubtful.value && emit('choose', nextDoubtful.value.id),
  },
])
</script>

<template>
  <header class="header">
    <TrackPicker :tracks="tracks" :chosen="track?.id" @choose="(id) => emit('choose', id)" />
    <span v-if="markup.track" class="facts">
      <strong>{{ tempo }}</strong>
      <TrackFacts v-if="track" :track="track" :found="markup.track" />
      <span class="state" :data-checked="checked">{{ state }}</span>
    </span>
    <span class="gap" />
    <Tooltip
      v-if="nextDoubtful"
      :title="`${nextDoubtful.title}: ${nextDoubtful.doubts[0]} (${keyFor('N')})`"
      placement="bottom"
    >
      <Button @click="emit('choose', nextDoubtful.id)">Next to check</Button>
    </Tooltip>
    <Tooltip :title="`Mark the grid as checked (${keyFor('c')})`" placement="bottom">
      <Button
        :type="checked ? 'default' : 'primary'"
        :disabled="!markup.grid"
        :aria-pressed="checked"
        @click="emit('check')"
        >{{ checked ? 'Not checked after all' : 'Mark as checked' }}</Button
      >
    </Tooltip>
    <MarkFileBox v-if="markup.track" />
    <UndoButtons
      :undo="markup.track?.undo"
      :redo="markup.track?.redo"
      @undo="markup.undo()"
      @redo="markup.redo()"
    />
  </header>
</template>

<style scoped>
.header {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 52px;
  padding: 0 14px;
  border-bottom: 1px solid var(--line);
}

.facts {
  padding-left: 6px;
  white-space: nowrap;
}

.state {
  margin-left: 10px;
  padding: 2px 8px;
  border: 1px solid var(--line-strong);
  border-radius: 9px;
  color: var(--ink-soft);
  font-size: 12px;
}

.state[data-checked='true'] {
  border-color: var(--fern);
  background: var(--fern-soft);
  color: var(--fern);
}

@media (max-width: 1180px) {
  .header {
    flex-wrap: wrap;
    height: auto;
    min-height: 52px;
    padding: 6px 14px;
  }
}
</style>
