<script setup lang="ts">
import { computed } from 'vue'
import type { Cue } from '../../api/types'
import { startDrag } from '../../composables/page/useDrag'
import { plateOf, roleOf, type Stake } from '../../time/cues'
import { hueAt } from '../../theme/hues'

/** Cues as plant labels; what is suggested is outlined. */
const props = defineProps<{
  stakes: Stake[]
  width: number
  chosen?: string
  /** Rows that plates may take; more crowded ones keep only their stake. */
  rows?: number
  /** Whether stakes can be dragged. */
  movable?: boolean
  /** Whether the plates hang at the lower end of their stakes. */
  hangs?: boolean
}>()
const emit = defineEmits<{
  choose: [cue: Cue]
  drag: [cue: Cue, dx: number, free: boolean]
  drop: [cue: Cue]
  accept: [cue: Cue]
}>()

const LETTER = 6.4
const PADDING = 12
const APART = 3

const placed = computed(() => {
  const taken: number[] = Array.from({ length: props.rows ?? 2 }, () => -Infinity)
  return [...props.stakes]
    .filter((s) => s.x > -60 && s.x < props.width + 4)
    .sort((a, b) => a.x - b.x)
    .map((stake) => {
      const text = plateOf(stake.cue)
      const wide = text.length * LETTER + PADDING
      const row = taken.findIndex((until) => until < stake.x)
      if (row >= 0) taken[row] = stake.x + wide + APART
      const hue = stake.cue.hue === null || stake.cue.hue === undefined ? undefined : hueAt(stake.cue.hue)
      return { ...stake, text, row, colour: hue?.strong }
    })
})

function press(event: PointerEvent, stake: Stake) {
  if (!props.movable || stake.suggested) {
    event.stopPropagation()
    return
  }
  startDrag(event, {
    move: (dx, _, at) => emit('drag', stake.cue, dx, at.shiftKey),
    drop: () => emit('drop', stake.cue),
    click: () => emit('choose', stake.cue),
  })
}

function click(event: MouseEvent, stake: Stake) {
  // A press that can drag has told of the click already; the keyboard's has no press.
  if (stake.suggested) emit('accept', stake.cue)
  else if (!props.movable || event.detail === 0) emit('choose', stake.cue)
}

function title(stake: Stake) {
  if (stake.suggested) return `Suggested: ${stake.reason}`
  return [roleOf(stake.cue).label, stake.cue.name, stake.cue.note].filter(Boolean).join(' · ')
}
</script>

<template>
  <div class="plates" :class="{ hangs }">
    <button
      v-for="p in placed"
      :key="p.cue.id"
      type="button"
      class="stake"
      :class="{ suggested: p.suggested, chosen: p.cue.id === chosen, bare: p.row < 0, movable }"
      :style="{
        left: `${p.x}px`,
        '--row': p.row < 0 ? (rows ?? 2) : p.row,
        '--hue': p.colour ?? 'var(--ink-soft)',
      }"
      :aria-label="`${p.suggested ? 'Suggested cue' : 'Cue'} ${p.text}`"
      :title="title(p)"
      @pointerdown="(e) => press(e, p)"
      @click="(e) => click(e, p)"
    >
      {{ p.row >= 0 ? p.text : '' }}
    </button>
  </div>
</template>

<style scoped>
.plates {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}

.stake {
  position: absolute;
  top: calc(var(--row) * 17px);
  height: 16px;
  margin-left: -1px;
  padding: 0 6px 0 5px;
  border: 1px solid var(--hue);
  border-left-width: 2px;
  border-radius: 0 7px 7px 0;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 11px;
  line-height: 14px;
  white-space: nowrap;
  pointer-events: auto;
  cursor: pointer;
}

/* The stake itself: from the plate to the other end of the box, which clips it. */
.stake::before {
  position: absolute;
  top: -1px;
  left: -2px;
  width: 2px;
  height: 2000px;
  background: var(--hue);
  content: '';
  pointer-events: none;
}

.hangs .stake {
  top: auto;
  bottom: calc(var(--row) * 17px);
}

.hangs .stake::before {
  top: auto;
  bottom: -1px;
}

.stake.movable:not(.suggested) {
  cursor: ew-resize;
}

.stake.bare {
  width: 8px;
  padding: 0;
  border-radius: 0 4px 4px 0;
}

.stake.suggested {
  border: 1px dashed var(--ink-soft);
  background: color-mix(in srgb, var(--ground) 75%, transparent);
  color: var(--ink-soft);
}

.stake.suggested::before {
  left: -1px;
  width: 0;
  border-left: 1px dashed var(--ink-soft);
  background: none;
}

.stake:hover,
.stake:focus-visible {
  z-index: 1;
  background: var(--fern-soft);
}

.stake.chosen {
  background: var(--ink);
  color: var(--sheet);
}
</style>
