<script setup lang="ts">
import { Dropdown, Menu, MenuDivider, MenuItem } from 'ant-design-vue'
import { computed, ref, useTemplateRef } from 'vue'
import type { VoiceSpan } from '../../api/types'
import { startDrag } from '../../composables/page/useDrag'
import { useResting } from '../../composables/page/useResting'
import { barBeat } from '../../time/format'
import type { BeatGrid } from '../../time/grid'
import { extent, joined, splitSpan, withEdge, withMoved, withSpan } from '../../time/spans'

const { spans, beats, duration, cursor, change } = defineProps<{
  spans: VoiceSpan[]
  /** Keeps changed spans; false where they were refused. */
  change: (spans: VoiceSpan[], why: string) => Promise<boolean>
  beats: BeatGrid
  duration: number
  cursor: number
}>()
const emit = defineEmits<{ analysed: [] }>()

const row = useTemplateRef<HTMLElement>('row')
const draft = ref<VoiceSpan[]>()
const open = ref<number>()
const pressed = useResting<VoiceSpan[]>()
const shown = computed(() => draft.value ?? pressed.draft.value ?? spans)

const pills = computed(() => shown.value.map((s, index) => ({ s, index, ...extent(s, beats, duration) })))

const beatUnder = (event: PointerEvent) => {
  const box = row.value!.getBoundingClientRect()
  return Math.round(beats.beatAt(((event.clientX - box.left) / box.width) * duration))
}

function where(s: VoiceSpan) {
  return `Voice from ${barBeat(Math.round(s.start), beats.bars)} to ${barBeat(Math.round(s.end), beats.bars)}`
}

/** Follow a drag that changes the spans; what it makes of them is sent when it ends. */
function drag(
  event: PointerEvent,
  why: string,
  moved: (dx: number, at: PointerEvent) => VoiceSpan[],
  click?: () => void,
) {
  startDrag(event, {
    move: (dx, _, at) => (draft.value = moved(dx, at)),
    drop() {
      if (draft.value) void change(draft.value, why)
      draft.value = undefined
    },
    click,
  })
}

function mark(event: PointerEvent) {
  const from = beatUnder(event)
  drag(event, 'mark a voice', (_, at) => withSpan(spans, from, beatUnder(at)))
}

function moveSpan(event: PointerEvent, index: number) {
  const from = beatUnder(event)
  drag(
    event,
    'move a voice span',
    (_, at) => withMoved(spans, index, beatUnder(at) - from),
    () => (open.value = open.value === index ? undefined : index),
  )
}

function moveEdge(event: PointerEvent, index: number, edge: 'start' | 'end') {
  drag(event, 'move a voice span’s edge', (_, at) => withEdge(spans, index, edge, beatUnder(at)))
}

function nudge(index: number, edge: 'start' | 'end', by: number) {
  const beat = Math.round(shown.value[index]![edge]) + by
  const moved = withEdge(shown.value, index, edge, beat)
  pressed.put(moved, () => change(moved, 'move a voice span’s edge'))
}

function split(index: number) {
  const changed = splitSpan(spans, index, beats.beatAt(cursor))
  if (changed !== spans) void change(changed, 'split a voice span')
}

function remove(index: number) {
  void change(
    spans.filter((_, i) => i !== index),
    'remove a voice span',
  )
}

function markHere() {
  const beat = Math.round(beats.beatAt(cursor))
  void change(withSpan(spans, beat, beat + beats.beatsPerBar), 'mark a voice')
}
</script>

<template>
  <div ref="row" class="voice" role="group" aria-label="Voice" @pointerdown="mark">
    <span v-if="!pills.length" class="hint"
      >No voice heard. Drag here to mark one, or
      <button type="button" class="here" @pointerdown.stop @click="markHere">mark a bar at the cursor</button
      >.</span
    >
    <span
      v-for="p in pills"
      :key="p.index"
      class="span"
      :style="{ left: `${p.left * 100}%`, width: `${p.width * 100}%` }"
    >
      <Dropdown
        :trigger="[]"
        :open="open === p.index"
        @open-change="(shown: boolean) => (open = shown ? p.index : undefined)"
      >
        <button
          type="button"
          class="pill"
          aria-haspopup="menu"
          :title="where(p.s)"
          :aria-label="where(p.s)"
          @pointerdown="(e) => moveSpan(e, p.index)"
          @keydown.enter.prevent="open = p.index"
          @keydown.delete.prevent="remove(p.index)"
          @blur="open = undefined"
        />
        <template #overlay>
          <Menu @pointerdown.stop.prevent @click="open = undefined">
            <MenuItem key="split" @click="split(p.index)">Split at the cursor</MenuItem>
            <MenuItem
              v-if="p.index < spans.length - 1"
              key="join"
              @click="change(joined(spans, p.index), 'join two voice spans')"
              >Join with the next</MenuItem
            >
            <MenuItem key="remove" @click="remove(p.index)">No voice here</MenuItem>
            <MenuDivider />
            <MenuItem key="here" @click="markHere">Mark a bar at the cursor</MenuItem>
            <MenuItem key="analysed" @click="emit('analysed')">All voice as analysed</MenuItem>
          </Menu>
        </template>
      </Dropdown>
      <span
        v-for="edge in ['start', 'end'] as const"
        :key="edge"
        class="edge"
        :class="edge"
        role="slider"
        tabindex="0"
        :aria-label="edge === 'start' ? 'Start of the voice' : 'End of the voice'"
        :aria-valuenow="Math.round(p.s[edge])"
        :aria-valuetext="`bar ${barBeat(Math.round(p.s[edge]), beats.bars)}`"
        @pointerdown="(e) => moveEdge(e, p.index, edge)"
        @keydown.left.stop.prevent="nudge(p.index, edge, -1)"
        @keydown.right.stop.prevent="nudge(p.index, edge, 1)"
      />
    </span>
    <span v-if="pills.length" class="name">voice</span>
  </div>
</template>

<style scoped>
.voice {
  position: relative;
  height: 18px;
  margin-top: 2px;
  cursor: crosshair;
  touch-action: none;
}

.hint {
  color: var(--ink-soft);
  font-size: 12px;
  line-height: 18px;
}

.here {
  padding: 0;
  border: 0;
  background: none;
  color: var(--fern);
  font: inherit;
  text-decoration: underline;
  cursor: pointer;
}

.name {
  position: absolute;
  top: 2px;
  right: 4px;
  padding: 0 2px;
  color: var(--ink-soft);
  font-size: 11px;
  line-height: 13px;
  pointer-events: none;
}

.span {
  position: absolute;
  top: 1px;
  bottom: 1px;
  min-width: 5px;
}

.pill {
  display: block;
  width: 100%;
  height: 100%;
  padding: 0;
  border: 1px solid var(--ink-soft);
  border-radius: 8px 8px 8px 2px;
  background: color-mix(in srgb, var(--ink) 14%, var(--sheet));
  cursor: grab;
  touch-action: none;
}

.edge {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 7px;
  cursor: ew-resize;
  touch-action: none;
}

.edge.start {
  left: -4px;
}

.edge.end {
  right: -4px;
}

.edge:hover,
.edge:focus-visible {
  background: color-mix(in srgb, var(--fern) 45%, transparent);
}
</style>
