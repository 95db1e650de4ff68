<script setup lang="ts">
import { Button, Skeleton } from 'ant-design-vue'
import { computed, toRef } from 'vue'
import type { Bridge, Command, Cure, Entry, Step } from '../../api/types'
import { useKeyNotation } from '../../composables/page/preferences'
import { useKeys } from '../../composables/page/useKeys'
import { useJump } from '../../composables/order/useOrders'
import { useTrials } from '../../composables/mix/useTrials'
import type { ListedTrack } from '../../library/trackTable'
import { useMix } from '../../stores/mix'
import { tempoOf } from '../../time/format'
import { nearnessOf } from '../../time/steps'
import GlyphIcon from '../shared/GlyphIcon.vue'
import KeyDots from './KeyDots.vue'

/** What would bridge the jump between two entries: cures that need no other track, and tracks that lie between. */
const props = defineProps<{
  out: Entry
  into: Entry
  byId: ReadonlyMap<string, ListedTrack>
  search: string
  list: string | undefined
}>()

const NUMBERS = ['1', '2', '3', '4', '5', '6', '7', '8', '9']

const mix = useMix()
const { hear } = useTrials()
const { keyOf } = useKeyNotation()

const {
  data: jump,
  isPending,
  error,
} = useJump(
  computed(() => mix.mix!.id),
  computed(() => mix.mix?.version),
  computed(() => props.out.id),
  toRef(props, 'search'),
  toRef(props, 'list'),
)
const present = computed(() => mix.plan?.transitions[props.out.index]?.step)
const rows = computed(() =>
  (jump.value?.bridges ?? []).flatMap((bridge) => {
    const track = props.byId.get(bridge.track_id)
    return track ? [{ bridge, track }] : []
  }),
)

const insertion = (bridge: Bridge): Command => ({
  kind: 'add_tracks',
  track_ids: [bridge.track_id],
  at: props.out.index + 1,
})

/** How a step is said in few words. */
const short = (step: Step) => `${step.tempo_words.split(',')[0]} · ${step.key_words.split(';')[0]}`

const insert = (bridge: Bridge) => void mix.send(insertion(bridge))

useKeys('Bridges', [
  {
    keys: NUMBERS,
    shown: '1 … 9',
    label: 'Insert the track of that number',
    run: (event) => {
      const row = rows.value[Number(event.key) - 1]
      if (row) insert(row.bridge)
    },
  },
])

function use(cure: Cure) {
  void mix.send(cure.command as Command)
}
</script>

<template>
  <div class="jump-pane">
    <p class="from">
      <strong class="clip">{{ out.title }}</strong>
      <span v-if="present" class="now soft"
        ><KeyDots :nearness="nearnessOf(present)" />{{ short(present) }}</span
      >
      <strong class="clip">{{ into.title }}</strong>
    </p>
    <Skeleton v-if="isPending" class="padded" active :paragraph="{ rows: 6 }" :title="false" />
    <p v-else-if="error" class="padded warn">{{ error.message }}</p>
    <template v-else>
      <ul v-if="jump?.cures.length" class="cures" aria-label="Without another track">
        <li v-for="cure in jump.cures" :key="cure.kind">
          <span>{{ cure.words }}</span>
          <button
            type="button"
            class="listen"
            :aria-label="`Listen: ${cure.words}`"
            @click="hear(cure.command as Command, out.index)"
          >
            <GlyphIcon name="play" :size="12" />
          </button>
          <Button size="small" :aria-label="`Apply: ${cure.words}`" @click="use(cure)">Apply</Button>
        </li>
      </ul>
      <p v-if="!rows.length" class="soft padded">
        No track of this part of the library makes this step smaller.
      </p>
      <ol v-else class="bridges" aria-label="Tracks between them">
        <li v-for="({ bridge, track }, i) in rows" :key="track.id">
          <div class="track">
            <strong class="clip" :title="track.title"
              ><span v-if="i < NUMBERS.length" class="soft key-number">{{ i + 1 }}</span>
              {{ track.title }}</strong
            >
            <span class="soft">{{ tempoOf(track) || '–' }} · {{ keyOf(track) }}</span>
            <Button
              size="small"
              class="insert"
              :aria-label="`Insert ${track.title}`"
              :title="`Put it between them${i < NUMBERS.length ? ` (${i + 1})` : ''}`"
              @click="insert(bridge)"
              ><GlyphIcon name="plus"
            /></Button>
          </div>
          <button
            type="button"
            class="half"
            :aria-label="`Listen to ${out.title} into ${track.title}`"
            @click="hear(insertion(bridge), out.index)"
          >
            <GlyphIcon name="play" :size="10" /><KeyDots :nearness="nearnessOf(bridge.before)" /><span
              class="clip"
              >{{ short(bridge.before) }}</span
            >
          </button>
          <button
            type="button"
            class="half"
            :aria-label="`Listen to ${track.title} into ${into.title}`"
            @click="hear(insertion(bridge), out.index + 1)"
          >
            <GlyphIcon name="play" :size="10" /><KeyDots :nearness="nearnessOf(bridge.after)" /><span
              class="clip"
              >{{ short(bridge.after) }}</span
            >
          </button>
        </li>
      </ol>
    </template>
  </div>
</template>

<style scoped>
.jump-pane {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
  overflow: auto;
}

.from {
  display: flex;
  flex-direction: column;
  margin: 0;
  padding: 8px 12px;
  border-bottom: 1px solid var(--line);
}

.now {
  display: flex;
  align-items: center;
  gap: 5px;
  font-size: 12px;
}

.padded {
  margin: 0;
  padding: 10px 12px;
}

.cures {
  border-bottom: 1px solid var(--line-strong);
  background: var(--ground);
}

.cures li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 24px max-content;
  align-items: center;
  gap: 6px;
  padding: 6px 10px 6px 12px;
  font-size: 13px;
  line-height: 1.3;
}

.cures li + li {
  border-top: 1px solid var(--line);
}

.listen {
  padding: 4px 0;
  border: 0;
  background: none;
  color: var(--fern);
  cursor: pointer;
}

.bridges li {
  padding: 5px 10px 5px 12px;
  border-bottom: 1px solid var(--line);
}

.track {
  display: grid;
  grid-template-columns: minmax(0, 1fr) max-content 30px;
  align-items: center;
  gap: 8px;
}

.key-number {
  display: inline-block;
  width: 14px;
  font-weight: 400;
}

.insert {
  padding: 0 7px;
}

.half {
  display: flex;
  align-items: center;
  gap: 5px;
  width: 100%;
  min-height: 22px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink-soft);
  font: inherit;
  font-size: 12px;
  text-align: left;
  cursor: pointer;
}

.half :deep(.glyph) {
  margin: 0;
  color: var(--fern);
}

.half:hover {
  background: var(--sunken);
}
</style>
