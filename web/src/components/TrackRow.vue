<script setup lang="ts">
import { Button, Dropdown, Menu, MenuItem, Modal, Progress, Tooltip, message } from 'ant-design-vue'
import { computed } from 'vue'
import type { Track } from '../api/types'
import { trackPiece } from '../composables/pieces'
import { useKeyNotation } from '../composables/preferences'
import { useTrackActions } from '../composables/useTracks'
import { RATE } from '../sound/player'
import { useListening } from '../stores/listening'
import { hueOf } from '../theme/hues'
import { bpm, clockTime } from '../time/format'
import GlyphIcon from './GlyphIcon.vue'
import SmallWave from './SmallWave.vue'

const { track } = defineProps<{ track: Track }>()
const listening = useListening()
const actions = useTrackActions()
const { keyOf } = useKeyNotation()
const hue = hueOf(0)
/** What is still to be looked at: nothing once the user has checked the grid. */
const toLookAt = computed(() => (track.checked ? [] : (track.doubts ?? []).map((d) => d.text)))

const working = computed(() => track.analysis?.state === 'running' || track.analysis?.state === 'waiting')
const playhead = computed(() => listening.secondsIn('track', track.id))
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' })
const file = computed(() => {
  const rate = track.rate === 44_100 ? '' : ` · ${track.rate / 1000} kHz`
  return `${track.format}${rate}${track.channels === 1 ? ' · mono' : ''}`
})

function listen(seconds: number) {
  listening.play(trackPiece(track), Math.round(seconds * RATE))
}

async function attempt(work: () => Promise<void>) {
  try {
    await work()
  } catch (error) {
    message.error({ content: (error as Error).message, duration: 6 })
  }
}

function remove() {
  Modal.confirm({
    title: `Remove ‘${track.title}’ from the library?`,
    content:
      'The copy that the library keeps is deleted; a file that stayed in its own place is not touched.',
    okText: 'Remove',
    okButtonProps: { danger: true },
    onOk: () => attempt(() => actions.remove(track.id)),
  })
}
</script>

<template>
  <div role="row" class="track" :data-track="track.id">
    <span class="title" role="cell">
      <strong class="clip" :title="track.file_name">{{ track.title }}</strong>
      <Tooltip v-if="toLookAt.length" :title="toLookAt.join(' ')">
        <RouterLink
          class="doubt"
          :to="{ name: 'grid', params: { track: track.id } }"
          :aria-label="`Look at the grid of ${track.title}: ${toLookAt.join(' ')}`"
          ><GlyphIcon name="flag" :size="14"
        /></RouterLink>
      </Tooltip>
      <Tooltip v-else-if="track.checked" title="You marked its grid as checked">
        <span class="checked"><GlyphIcon name="check" :size="14" /></span>
      </Tooltip>
    </span>
    <span class="clip soft" role="cell">{{ track.artist || '–' }}</span>
    <span class="number" role="cell">
      <Tooltip v-if="track.bpm !== null && !track.steady" title="The tempo moves: this is its mean">
        <span>≈ {{ bpm(track.bpm) }}</span>
      </Tooltip>
      <template v-else-if="track.bpm !== null">{{ bpm(track.bpm) }}</template>
      <Tooltip v-else-if="track.has_peaks" title="No steady beat was found"
        ><span class="faint">none</span></Tooltip
      >
      <span v-else class="faint">…</span>
    </span>
    <span role="cell">{{ keyOf(track) }}</span>
    <span class="number" role="cell">{{ clockTime(track.duration_s) }}</span>
    <span class="number" role="cell">
      <template v-if="track.loudness_lufs !== null"
        >{{ track.loudness_lufs.toFixed(1).replace('-', '−') }} LUFS</template
      >
      <span v-else class="faint">{{ track.has_peaks ? 'silent' : '…' }}</span>
    </span>
    <span class="clip soft" role="cell" :title="track.coding">{{ file }}</span>
    <span class="soft" role="cell">{{ day.format(new Date(track.added_at)) }}</span>
    <div role="cell" class="picture">
      <SmallWave
        v-if="track.has_peaks"
        :track-id="track.id"
        :title="track.title"
        :duration="track.duration_s"
        :hue="hue"
        :playhead="playhead"
        @listen="listen"
      />
      <div v-else-if="working" class="working">
        <Progress
          :percent="Math.round((track.analysis?.progress ?? 0) * 100)"
          size="small"
          :show-info="false"
        />
        <span class="soft">{{ track.analysis?.state === 'running' ? 'analysing' : 'waiting' }}</span>
      </div>
      <div v-else-if="track.analysis" class="failed clip" role="alert" :title="track.analysis.error ?? ''">
        {{ track.analysis.error ?? 'The analysis was ended.' }}
        <Button size="small" @click="attempt(() => actions.analyse(track.id))">Try again</Button>
      </div>
    </div>
    <Dropdown :trigger="['click']" placement="bottomRight">
      <Button type="text" size="small" :aria-label="`More for ${track.title}`"
        ><GlyphIcon name="more"
      /></Button>
      <template #overlay>
        <Menu>
          <MenuItem v-if="working" key="cancel" @click="attempt(() => actions.cancel(track.analysis!.id))">
            Cancel the analysis
          </MenuItem>
          <MenuItem
            v-if="track.has_peaks"
            key="grid"
            @click="$router.push({ name: 'grid', params: { track: track.id } })"
            >Grid & cues</MenuItem
          >
          <MenuItem v-if="!working" key="analyse" @click="attempt(() => actions.analyse(track.id))"
            >Analyse again</MenuItem
          >
          <MenuItem key="remove" danger @click="remove">Remove…</MenuItem>
        </Menu>
      </template>
    </Dropdown>
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

.title {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
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

.working :deep(.ant-progress) {
  margin: 0;
}

.failed {
  color: var(--bad);
  font-size: 13px;
}
</style>
