<script setup lang="ts">
import { Dropdown, Input, Menu, MenuDivider, MenuItem, Modal } from 'ant-design-vue'
import { computed, h, ref, useTemplateRef } from 'vue'
import type { Offsets, Section, SectionKind } from '../api/types'
import { useCanvas } from '../composables/useCanvas'
import { startDrag } from '../composables/useDrag'
import { peaksOf } from '../composables/usePeaks'
import { drawDrift, FULL_MS } from '../drawing/drift'
import { drawSmallWave } from '../drawing/smallWave'
import { hueOf } from '../theme/hues'
import { useTokens } from '../theme/tokens'
import { barBeat } from '../time/format'
import type { BeatGrid } from '../time/grid'

const KINDS: { kind: SectionKind; label: string }[] = [
  { kind: 'beat', label: 'Beat only' },
  { kind: 'bass', label: 'With bass' },
  { kind: 'full', label: 'Full' },
  { kind: 'break', label: 'Break' },
  { kind: 'rise', label: 'Rise' },
  { kind: 'beatless', label: 'Beatless' },
]

const props = defineProps<{
  trackId: string
  duration: number
  beats: BeatGrid | undefined
  sections: Section[]
  offsets: Offsets | undefined
  cursor: number
  playhead: number | undefined
}>()
const emit = defineEmits<{ place: [seconds: number]; sections: [sections: Section[], why: string] }>()

const tokens = useTokens()
const hue = hueOf(0)
const wave = useTemplateRef<HTMLCanvasElement>('wave')
const strip = useTemplateRef<HTMLCanvasElement>('strip')
const moving = ref<{ index: number; beat: number }>()

const { width } = useCanvas(wave, ({ context, width: w, height }) => {
  const peaks = peaksOf(props.trackId, 4096)
  if (peaks) drawSmallWave(context, w, height, peaks, props.duration, hue, 0)
})
useCanvas(strip, ({ context, width: w, height }) => {
  if (props.offsets && props.beats)
    drawDrift(context, w, height, props.offsets, props.beats, props.duration, tokens.value)
})

const share = (seconds: number) => Math.min(1, Math.max(0, seconds / props.duration))
const blocks = computed(() => {
  const beats = props.beats
  if (!beats) return []
  return props.sections.map((s, index) => {
    const start = moving.value?.index === index ? moving.value.beat : s.start
    const end = moving.value?.index === index + 1 ? moving.value.beat : s.end
    const left = share(beats.timeAt(start))
    return { s, index, left, width: share(beats.timeAt(end)) - left, label: s.name || labelOf(s.kind) }
  })
})

function labelOf(kind: SectionKind) {
  return KINDS.find((k) => k.kind === kind)!.label
}

function place(event: PointerEvent) {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const go = (at: PointerEvent) =>
    emit('place', share(((at.clientX - box.left) / box.width) * props.duration) * props.duration)
  startDrag(event, { move: (_, __, at) => go(at), drop: go, click: go })
}

/** Sections with the border at the start of one of them moved to a bar between its neighbours. */
function withBorder(index: number, beat: number): Section[] {
  return props.sections.map((s, i) => {
    if (i === index) return { ...s, start: beat }
    return i === index - 1 ? { ...s, end: beat } : s
  })
}

function limited(index: number, beat: number): number {
  const perBar = props.beats!.beatsPerBar
  const low = props.sections[index - 1]!.start + perBar
  const high = props.sections[index]!.end - perBar
  return Math.min(Math.max(Math.round(beat / perBar) * perBar, low), high)
}

function dragBorder(event: PointerEvent, index: number) {
  const start = props.sections[index]!.start
  const origin = props.beats!.timeAt(start)
  startDrag(event, {
    move(dx) {
      const beat = props.beats!.beatAt(origin + (dx / width.value) * props.duration)
      moving.value = { index, beat: limited(index, beat) }
    },
    drop() {
      if (moving.value) emit('sections', withBorder(index, moving.value.beat), 'move a section border')
      moving.value = undefined
    },
  })
}

function nudgeBorder(index: number, bars: number) {
  const beat = limited(index, props.sections[index]!.start + bars * props.beats!.beatsPerBar)
  emit('sections', withBorder(index, beat), 'move a section border')
}

function setKind(index: number, kind: SectionKind) {
  const changed = props.sections.map((s, i) => (i === index ? { ...s, kind } : s))
  emit('sections', changed, `call a section ‘${labelOf(kind)}’`)
}

function split(index: number) {
  const s = props.sections[index]!
  const perBar = props.beats!.beatsPerBar
  const wanted = Math.round(props.beats!.beatAt(props.cursor) / perBar) * perBar
  const middle = Math.round((s.start + s.end) / 2 / perBar) * perBar
  const at = wanted > s.start && wanted < s.end ? wanted : middle
  if (at <= s.start || at >= s.end) return
  const changed = props.sections.flatMap((x, i) =>
    i === index
      ? [
          { ...x, end: at },
          { ...x, start: at },
        ]
      : [x],
  )
  emit('sections', changed, 'split a section')
}

function join(index: number) {
  const next = props.sections[index + 1]!
  const changed = props.sections
    .map((s, i) => (i === index ? { ...s, end: next.end } : s))
    .filter((_, i) => i !== index + 1)
  emit('sections', changed, 'join two sections')
}

function rename(index: number) {
  let name = props.sections[index]!.name
  Modal.confirm({
    title: 'Name of the section',
    content: () =>
      h(Input, {
        defaultValue: name,
        maxlength: 60,
        'aria-label': 'Name',
        onChange: (e) => (name = e.target.value ?? ''),
      }),
    okText: 'Rename',
    onOk: () =>
      emit(
        'sections',
        props.sections.map((s, i) => (i === index ? { ...s, name: (name ?? '').trim() } : s)),
        'rename a section',
      ),
  })
}
</script>

<template>
  <div class="overview">
    <div class="sections" aria-label="Sections" role="list">
      <Dropdown v-for="b in blocks" :key="b.index" :trigger="['click']">
        <button
          type="button"
          role="listitem"
          class="block clip"
          :data-kind="b.s.kind"
          :style="{ left: `${b.left * 100}%`, width: `${b.width * 100}%` }"
          :title="`${b.label}: bar ${barBeat(b.s.start, beats!.beatsPerBar).split('.')[0]} on, ${Math.round((b.s.end - b.s.start) / beats!.beatsPerBar)} bars`"
        >
          {{ b.label }}
        </button>
        <template #overlay>
          <Menu>
            <MenuItem
              v-for="k in KINDS"
              :key="k.kind"
              :disabled="k.kind === b.s.kind"
              @click="setKind(b.index, k.kind)"
              >{{ k.label }}</MenuItem
            >
            <MenuDivider />
            <MenuItem key="rename" @click="rename(b.index)">Rename…</MenuItem>
            <MenuItem key="split" @click="split(b.index)">Split at the cursor</MenuItem>
            <MenuItem v-if="b.index < sections.length - 1" key="join" @click="join(b.index)"
              >Join with the next</MenuItem
            >
          </Menu>
        </template>
      </Dropdown>
      <span
        v-for="b in blocks.slice(1)"
        :key="`border${b.index}`"
        class="border"
        role="slider"
        tabindex="0"
        :aria-label="`Start of ${b.label}`"
        :aria-valuenow="b.s.start"
        :style="{ left: `${b.left * 100}%` }"
        @pointerdown="(e) => dragBorder(e, b.index)"
        @keydown.left.stop.prevent="nudgeBorder(b.index, -1)"
        @keydown.right.stop.prevent="nudgeBorder(b.index, 1)"
      />
    </div>
    <div class="over" @pointerdown="place">
      <canvas ref="wave" class="wave" />
      <div class="drift" role="img" aria-label="Drift strip: how far the onsets lie from the grid">
        <canvas ref="strip" />
        <span class="scale top">early</span>
        <span class="scale bottom">late {{ FULL_MS }} ms</span>
      </div>
      <div class="cursor" :style="{ left: `${share(cursor) * 100}%` }" />
      <div v-if="playhead !== undefined" class="playhead" :style="{ left: `${share(playhead) * 100}%` }" />
    </div>
  </div>
</template>

<style scoped>
.overview {
  padding: 0 14px;
}

.sections {
  position: relative;
  height: 22px;
}

.block {
  position: absolute;
  top: 1px;
  bottom: 1px;
  padding: 0 6px;
  border: 0;
  border-right: 1px solid var(--ground);
  background: var(--sunken);
  color: var(--ink);
  font: inherit;
  font-size: 12px;
  line-height: 20px;
  text-align: left;
  cursor: pointer;
}

.block[data-kind='beat'] {
  background: repeating-linear-gradient(90deg, var(--fern-soft) 0 5px, var(--sheet) 5px 7px);
  color: var(--fern);
  font-weight: 600;
}

.block[data-kind='bass'] {
  background: var(--fern-soft);
}

.block[data-kind='full'] {
  background: color-mix(in srgb, var(--ink) 22%, var(--ground));
}

.block[data-kind='rise'] {
  background: linear-gradient(90deg, var(--sunken), color-mix(in srgb, var(--ink) 22%, var(--ground)));
}

.block[data-kind='beatless'] {
  background: var(--sheet);
  color: var(--ink-soft);
}

.border {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 8px;
  margin-left: -4px;
  cursor: ew-resize;
  touch-action: none;
}

.border:hover,
.border:focus-visible {
  background: color-mix(in srgb, var(--fern) 45%, transparent);
}

.over {
  position: relative;
  cursor: pointer;
  touch-action: none;
}

.wave {
  display: block;
  width: 100%;
  height: 52px;
}

.drift {
  position: relative;
  height: 44px;
  border-top: 1px solid var(--line);
  background: var(--sheet);
}

.drift canvas {
  display: block;
  width: 100%;
  height: 100%;
}

.scale {
  position: absolute;
  right: 4px;
  padding: 0 2px;
  background: var(--sheet);
  color: var(--ink-soft);
  font-size: 11px;
  line-height: 13px;
  pointer-events: none;
}

.scale.top {
  top: 2px;
}

.scale.bottom {
  bottom: 2px;
}

.cursor,
.playhead {
  position: absolute;
  top: 0;
  bottom: 0;
  pointer-events: none;
}

.cursor {
  border-left: 2px dashed var(--fern);
}

.playhead {
  width: 2px;
  background: var(--ink);
}
</style>
