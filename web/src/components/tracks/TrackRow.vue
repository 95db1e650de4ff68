<script setup lang="ts">
import { Dropdown, Menu, MenuDivider, MenuItem } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { isOpen } from '../../composables/page/jobs'
import { attempt } from '../../composables/page/attempt'
import { useKeyNotation } from '../../composables/page/preferences'
import { useTrackActions } from '../../composables/library/useTracks'
import type { ColumnSpec } from '../../library/columns'
import type { ListedTrack } from '../../library/trackTable'
import { RATE } from '../../sound/player'
import { trackPiece } from '../../sound/pieces'
import { useListening } from '../../stores/listening'
import { hueOf } from '../../theme/hues'
import { bpm, tempoOf } from '../../time/format'
import GlyphIcon from '../shared/GlyphIcon.vue'
import SmallWave from '../shared/SmallWave.vue'

/** A row of a list that may hold ten thousand: plain elements; its menu is made when it is opened. */
const { track } = defineProps<{
  track: ListedTrack
  columns: readonly ColumnSpec[]
  chosen: boolean
  /** Whether the keys are on it. */
  current: boolean
  /** Its number on a list that has an order of its own. */
  number?: number
}>()
const emit = defineEmits<{ rename: []; remove: []; fits: []; mix: []; list: [] }>()
const listening = useListening()
const actions = useTrackActions()
const { keyOf } = useKeyNotation()
const hue = hueOf(0)
const menu = ref(false)
/** What is still to be looked at: nothing once the user has checked the grid. */
const toLookAt = computed(() => (track.checked ? [] : track.doubts))

const working = computed(() => isOpen(track.analysis))
const share = computed(() => Math.round((track.analysis?.progress ?? 0) * 100))
const playhead = computed(() => listening.secondsIn('track', track.id))

function listen(seconds: number) {
  listening.play(trackPiece(track), Math.round(seconds * RATE))
}

function run(work: () => Promise<void>) {
  menu.value = false
  return attempt(work)
}
</script>

<template>
  <div role="row" class="track" :class="{ chosen, current }" :data-track="track.id" :aria-selected="chosen">
    <template v-for="c in columns" :key="c.key">
      <span v-if="c.key === 'title'" class="title" role="cell">
        <span v-if="number !== undefined" class="faint place">{{ number }}</span>
        <strong class="clip" :title="`${track.title}\n${track.file_name}`">{{ track.title }}</strong>
        <RouterLink
          v-if="toLookAt.length"
          class="doubt"
          :to="{ name: 'grid', params: { track: track.id } }"
          :title="toLookAt.join('\n')"
          :aria-label="`Look at the grid of ${track.title}: ${toLookAt.join(' ')}`"
          ><GlyphIcon name="flag" :size="14"
        /></RouterLink>
        <span v-else-if="track.checked" class="checked" title="You marked its grid as checked"
          ><GlyphIcon name="check" :size="14"
        /></span>
        <span
          v-if="track.file_doubts.length"
          class="file"
          role="img"
          :title="track.file_doubts.join('\n')"
          :aria-label="track.file_doubts.join(' ')"
          >!</span
        >
      </span>
      <span v-else-if="c.key === 'bpm'" class="number" role="cell">
        <template v-if="track.steady || track.comes_bpm !== null">{{ tempoOf(track) }}</template>
        <span v-else-if="track.bpm !== null" title="The tempo wanders: this is its mean"
          >≈ {{ bpm(track.bpm) }}</span
        >
        <span v-else-if="track.has_peaks" class="faint" title="No steady beat was found">none</span>
        <span v-else class="faint">…</span>
      </span>
      <span v-else-if="c.key === 'key'" role="cell">{{ keyOf(track) }}</span>
      <span v-else-if="c.key === 'tags'" role="cell" class="tags" :title="track.tags.join(', ')"
        ><span v-for="tag in track.tags" :key="tag">{{ tag }}</span></span
      >
      <span v-else class="clip" :class="c.right ? 'number' : 'soft'" role="cell" :title="c.text(track)">{{
        c.text(track)
      }}</span>
    </template>
    <div role="cell" class="picture">
      <SmallWave
        v-if="track.has_peaks"
        :track-id="track.id"
        :title="track.title"
        :duration="track.duration_s"
        :hue="hue"
        :playhead="playhead"
        :cues="track.cue_marks"
        @listen="listen"
      />
      <div v-else-if="working" class="working">
        <div
          class="bar"
          role="progressbar"
          :aria-label="`Analysis of ${track.title}`"
          aria-valuemin="0"
          aria-valuemax="100"
          :aria-valuenow="share"
        >
          <div :style="{ width: `${share}%` }" />
        </div>
        <span class="soft">{{ track.analysis?.state === 'running' ? 'analysing' : 'waiting' }}</span>
      </div>
      <div v-else-if="track.analysis" class="failed clip" role="alert" :title="track.analysis.error ?? ''">
        <button type="button" class="again" @click="run(() => actions.analyse(track.id))">Try again</button>
        {{ track.analysis.error ?? 'The analysis was ended.' }}
      </div>
    </div>
    <span role="cell" class="more">
      <button
        type="button"
        class="dots"
        :aria-label="`More for ${track.title}`"
        aria-haspopup="menu"
        :aria-expanded="menu"
        @click="menu = !menu"
      >
        <GlyphIcon name="more" />
      </button>
      <Dropdown v-if="menu" v-model:open="menu" :trigger="['click']" placement="bottomRight">
        <span class="anchor" />
        <template #overlay>
          <Menu>
            <MenuItem v-if="working" key="cancel" @click="run(() => actions.cancel(track.analysis!.id))">
              Cancel the analysis
            </MenuItem>
            <MenuItem
              v-if="track.has_peaks"
              key="grid"
              @click="$router.push({ name: 'grid', params: { track: track.id } })"
              >Grid & cues</MenuItem
            >
            <MenuItem key="fits" @click="((menu = false), emit('fits'))">What fits</MenuItem>
            <MenuItem key="mix" @click="((menu = false), emit('mix'))"
              >To the mix that was changed last</MenuItem
            >
            <MenuItem key="list" @click="((menu = false), emit('list'))">To a new list</MenuItem>
            <MenuDivider />
            <MenuItem key="show" @click="run(() => actions.show(track.id))">Show in its folder</MenuItem>
            <MenuItem key="file"
              ><a :href="`/api/tracks/${track.id}/file`" download>Take its file out</a></MenuItem
            >
            <MenuItem key="rename" @click="((menu = false), emit('rename'))">Rename…</MenuItem>
            <MenuItem v-if="!working" key="analyse" @click="run(() => actions.analyse(track.id))"
              >Analyse again</MenuItem
            >
            <MenuItem key="remove" danger @click="((menu = false), emit('remove'))">Remove…</MenuItem>
          </Menu>
        </template>
      </Dropdown>
    </span>
  </div>
</template>

<style scoped>
.track {
  height: 50px;
  border-bottom: 1px solid var(--line);
}

.track:hover {
  background: var(--sheet);
}

.track.chosen {
  background: var(--fern-soft);
}

.track.current {
  box-shadow: inset 3px 0 0 var(--fern);
}

.file {
  flex: none;
  width: 16px;
  height: 16px;
  border: 1px solid var(--warn);
  border-radius: 50%;
  color: var(--warn);
  font-size: 11px;
  font-weight: 600;
  line-height: 14px;
  text-align: center;
}

/* What does not fit fades out, so that no tag looks like a shorter one. */
.tags {
  display: flex;
  gap: 3px;
  overflow: hidden;
  mask-image: linear-gradient(to right, black calc(100% - 14px), transparent);
}

.tags > span {
  flex: none;
  padding: 0 5px;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  font-size: 12px;
  line-height: 18px;
}

.title {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
}

.place {
  flex: none;
  min-width: 20px;
  font-variant-numeric: tabular-nums;
}

.doubt {
  color: var(--warn);
}

.checked {
  color: var(--fern);
}

.number {
  text-align: right;
  white-space: nowrap;
}

.picture {
  min-width: 0;
}

.working {
  display: flex;
  align-items: center;
  gap: 10px;
}

.bar {
  flex: 1;
  height: 6px;
  border-radius: 3px;
  background: var(--sunken);
}

.bar > div {
  height: 100%;
  border-radius: 3px;
  background: var(--fern);
}

.failed {
  color: var(--bad);
  font-size: 13px;
}

.again {
  margin-right: 6px;
  padding: 1px 8px;
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}

.more {
  position: relative;
}

.anchor {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
</style>
