<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import type { Edit, Entry, Fold, TrackGrid } from '../../api/types'
import { useCanvas } from '../../composables/page/useCanvas'
import { startDrag } from '../../composables/page/useDrag'
import { phrasesOf, type Editing, type GridSpan } from '../../composables/edits/useEditing'
import { peaksOf } from '../../pictures/trackPictures'
import { drawWave } from '../../drawing/waveTiles'
import { hueOf } from '../../theme/hues'
import { EntryClock } from '../../time/entryClock'
import { barNumbersOf } from '../../time/beatLines'
import { BeatGrid } from '../../time/grid'

const RESOLUTION = 4096
const MARK_EVERY = 64
const NAMES: Record<string, string> = {
  beat: 'beat only', bass: 'with bass', full: 'full', break: 'break', rise: 'rise', beatless: 'beatless',
} // prettier-ignore

/**
 * An entry's track as recorded, where a span is chosen, above what is heard of it; beats of both are equally wide, so
 * that one sees what was taken out and what comes again.
 */
const props = defineProps<{
  entry: Entry
  track: TrackGrid
  editing: Editing
  /** A place to fold that is looked at. */
  pointed: Fold | undefined
  /** The spans of the entry's beats in which it comes in and leaves. */
  arrival: GridSpan | undefined
  departure: GridSpan | undefined
  /** The beat of the entry at the playhead. */
  playBeat: number | undefined
}>()
const emit = defineEmits<{ listen: [entryBeat: number] }>()

const box = useTemplateRef<HTMLElement>('box')
const recorded = useTemplateRef<HTMLCanvasElement>('recorded')
const heard = useTemplateRef<HTMLCanvasElement>('heard')
const { width } = useElementSize(box)
const sketch = ref<GridSpan>()

const hue = computed(() => hueOf(props.entry.index))
const grid = computed(() => new BeatGrid(props.track.grid!, 1))
const clock = computed(() => EntryClock.of(props.entry, props.track.grid!))
/** The beats that carry sound, by the grid and as heard. */
const extent = computed(() => {
  const first = Math.floor(grid.value.beatAt(props.track.sound_start_s))
  const last = Math.ceil(grid.value.beatAt(props.track.sound_end_s))
  const spans = clock.value.spansOf(first, last)
  const natural = props.entry.edited?.natural_end ?? Infinity
  const end = Math.max(props.departure?.end ?? 0, Math.min(natural, Math.max(...spans.map((s) => s.end))))
  return { first, last, heardFirst: Math.min(...spans.map((s) => s.start)), heardLast: end }
})
/** Pixels of a beat as heard; one of the grid has `count` of them. */
const perBeat = computed(() => {
  const { first, last, heardFirst, heardLast } = extent.value
  return width.value / Math.max((last - first) * props.entry.count, heardLast - heardFirst, 1)
})
const gridX = (beat: number) => (beat - extent.value.first) * props.entry.count * perBeat.value
const gridBeat = (x: number) => x / perBeat.value / props.entry.count + extent.value.first
const heardX = (beat: number) => (beat - extent.value.heardFirst) * perBeat.value
const heardBeat = (x: number) => x / perBeat.value + extent.value.heardFirst

/** What rings on after the last bar is no phrase. */
const phrases = computed(() => {
  const { bars } = grid.value
  const [first, last] = [extent.value.first, extent.value.last].map((b) => bars.nearest(b))
  return phrasesOf(props.track.sections, bars, first!, last!)
})
const sections = computed(() =>
  props.track.sections.map((s) => ({
    x: gridX(s.start),
    width: gridX(s.end) - gridX(s.start),
    kind: s.kind,
    text: s.name || NAMES[s.kind],
  })),
)
const marks = computed(() => {
  const { first, last } = extent.value
  const numbers = barNumbersOf(grid.value.bars, first, last, perBeat.value * props.entry.count, MARK_EVERY)
  return numbers.map(({ beat, bar }) => ({ x: gridX(beat), text: `${bar}` }))
})
const shown = computed(() => sketch.value ?? props.editing.span.value)
const isWaiting = (edit: Edit) => !edit.on || !!props.entry.edited?.as_recorded
const signs = computed(() =>
  props.editing.edits.value.flatMap((edit) => {
    const mark = { id: edit.id, kind: edit.kind, waits: isWaiting(edit), text: signOf(edit) }
    const spans = [{ start: edit.start, end: edit.end }]
    if (edit.kind === 'swap') spans.push({ start: edit.other_start, end: edit.other_end })
    return spans.map((s, i) => ({ ...mark, key: `${edit.id} ${i}`, x: gridX(s.start), width: gridX(s.end) - gridX(s.start) })) // prettier-ignore
  }),
)
const joins = computed(() =>
  clock.value.pieces.filter((p) => Number.isFinite(p.start)).map((p) => heardX(p.start)),
)
const dropped = computed(() =>
  (props.entry.edited?.dropped ?? []).map((g) => ({
    x: heardX(g.start),
    width: heardX(g.end) - heardX(g.start),
    text: g.stems.length ? `no ${g.stems.join(', ')}` : 'silent',
  })),
)
const overlaps = computed(() =>
  [props.arrival, props.departure]
    .filter((s) => s !== undefined)
    .map((s) => ({ x: heardX(s.start), width: Math.max(2, heardX(s.end) - heardX(s.start)) })),
)

function signOf(edit: Edit): string {
  if (edit.kind === 'skip') return 'cut'
  if (edit.kind === 'repeat') return edit.times === null ? 'again and again' : `× ${edit.times}`
  if (edit.kind === 'swap') return 'swapped'
  return edit.stems.length ? `no ${edit.stems.join(', ')}` : 'silent'
}

useCanvas(recorded, ({ context, width: w, height, ratio }) => {
  const peaks = peaksOf(props.entry.track_id, RESOLUTION)
  if (!peaks) return
  const spec = { trackId: props.entry.track_id, peaks, grid: grid.value, gridKey: `1/${props.entry.track_version}`, hue: hue.value, gain: 0.9, hangs: false } // prettier-ignore
  drawWave(context, spec, gridX(0), perBeat.value * props.entry.count, w, 0, height, ratio)
})
useCanvas(heard, ({ context, width: w, height, ratio }) => {
  const peaks = peaksOf(props.entry.track_id, RESOLUTION)
  if (!peaks) return
  const spec = { trackId: props.entry.track_id, peaks, grid: grid.value, gridKey: `1/${props.entry.track_version}`, hue: hue.value, gain: 0.9, hangs: true } // prettier-ignore
  for (const piece of clock.value.pieces) {
    const start = Math.max(0, heardX(piece.start))
    const end = Math.min(w, heardX(Math.min(piece.end, extent.value.heardLast)))
    if (end <= start) continue
    context.save()
    context.beginPath()
    context.rect(start, 0, end - start, height)
    context.clip()
    drawWave(context, spec, heardX(piece.shift), perBeat.value * props.entry.count, w, 0, height, ratio)
    context.restore()
  }
})

const snapped = (beat: number, free: boolean) => (free ? Math.round(beat) : grid.value.bars.nearest(beat))

/** A click chooses the phrase, with shift up to it; a drag any span, on bar lines, or on beats with alt. */
function press(event: PointerEvent) {
  const x = event.clientX - box.value!.getBoundingClientRect().left
  const from = gridBeat(x)
  const before = props.editing.span.value
  startDrag(event, {
    move: (dx, _, at) => {
      const ends = [from, gridBeat(x + dx)].map((b) => snapped(b, at.altKey)).sort((a, b) => a - b)
      sketch.value = { start: ends[0]!, end: Math.max(ends[1]!, ends[0]! + 1) }
    },
    drop: () => {
      props.editing.choose(sketch.value)
      sketch.value = undefined
    },
    click: (at) => {
      const phrase = phrases.value.find((p) => p.start <= from && from < p.end)
      if (!phrase) return
      const both = before && {
        start: Math.min(before.start, phrase.start),
        end: Math.max(before.end, phrase.end),
      }
      props.editing.choose(at.shiftKey && both ? both : phrase)
    },
  })
}

/** The phrase before or after the chosen one; with shift it is added. */
function step(by: 1 | -1, adds: boolean) {
  const all = phrases.value
  const now = props.editing.span.value
  const at = now ? all.findIndex((p) => (by > 0 ? p.end >= now.end : p.end > now.start)) : -1
  const next = all[now ? at + by : 0]
  if (!next) return
  const both = now && { start: Math.min(now.start, next.start), end: Math.max(now.end, next.end) }
  props.editing.choose(adds && both ? both : next)
}
defineExpose({ step })

function listen(event: MouseEvent) {
  emit('listen', heardBeat(event.clientX - box.value!.getBoundingClientRect().left))
}
</script>

<template>
  <div class="stage">
    <div class="gutter">original</div>
    <div ref="box" class="strips">
      <svg class="ruler" :width="width" height="20" aria-hidden="true">
        <text v-for="m in marks" :key="m.x" :x="m.x + 3" y="14">{{ m.text }}</text>
      </svg>
      <div class="sections" aria-hidden="true">
        <span
          v-for="s in sections"
          :key="s.x"
          class="section clip"
          :class="s.kind"
          :style="{ left: `${s.x}px`, width: `${s.width - 1}px` }"
          >{{ s.width > 40 ? s.text : '' }}</span
        >
      </div>
      <div
        class="wave"
        role="group"
        aria-label="The original track: click a phrase, or drag over any span"
        @pointerdown="press"
      >
        <canvas ref="recorded" />
        <span v-for="p in phrases" :key="p.start" class="phrase" :style="{ left: `${gridX(p.start)}px` }" />
        <span
          v-for="s in signs"
          :key="s.key"
          class="sign"
          :class="[s.kind, { waits: s.waits }]"
          :style="{ left: `${s.x}px`, width: `${s.width}px` }"
          ><span class="plate">{{ s.text }}</span></span
        >
        <span
          v-if="pointed"
          class="pointed"
          :style="{
            left: `${gridX(grid.bars.beatOf(pointed.start_bar))}px`,
            width: `${gridX(grid.bars.beatOf(pointed.end_bar)) - gridX(grid.bars.beatOf(pointed.start_bar))}px`,
          }"
        />
        <span
          v-if="shown"
          class="chosen"
          :style="{ left: `${gridX(shown.start)}px`, width: `${gridX(shown.end) - gridX(shown.start)}px` }"
        />
      </div>
      <div
        class="wave heard"
        role="group"
        aria-label="As heard in the mix"
        title="Double-click: hear it from there"
        @dblclick="listen"
      >
        <canvas ref="heard" />
        <span
          v-for="o in overlaps"
          :key="o.x"
          class="overlap"
          :style="{ left: `${o.x}px`, width: `${o.width}px` }"
        />
        <span
          v-for="g in dropped"
          :key="g.x"
          class="dropped"
          :style="{ left: `${g.x}px`, width: `${g.width}px` }"
          ><span class="plate">{{ g.text }}</span></span
        >
        <span v-for="x in joins" :key="x" class="join" :style="{ left: `${x}px` }" />
        <span v-if="playBeat !== undefined" class="playhead" :style="{ left: `${heardX(playBeat)}px` }" />
      </div>
    </div>
    <div class="gutter lower">as heard</div>
  </div>
</template>

<style scoped>
/* Both strips fill what the view has below its tools. */
.stage {
  --strip: clamp(150px, calc((100vh - 352px) / 2), 320px);

  position: relative;
  display: grid;
  grid-template-columns: 66px 1fr;
  padding-right: 12px;
}

.gutter {
  grid-column: 1;
  grid-row: 1;
  padding: calc(36px + var(--strip) / 2) 8px 0 0;
  color: var(--ink-soft);
  font-size: 12px;
  text-align: right;
}

.gutter.lower {
  align-self: end;
  padding: 0 8px calc(var(--strip) / 2) 0;
}

.strips {
  position: relative;
  grid-column: 2;
  grid-row: 1;
  min-width: 0;
}

.ruler text {
  fill: var(--ink-soft);
  font-size: 12px;
}

.sections {
  position: relative;
  height: 22px;
}

.section {
  position: absolute;
  padding: 1px 6px;
  border-radius: 3px 3px 0 0;
  background: var(--sunken);
  color: var(--ink-soft);
  font-size: 12px;
  line-height: 20px;
}

.section.full {
  background: color-mix(in srgb, var(--fern) 26%, var(--sunken));
  color: var(--ink);
}

.section.break,
.section.beatless {
  background: var(--ground);
  box-shadow: inset 0 0 0 1px var(--line);
}

.wave {
  position: relative;
  height: var(--strip);
  overflow: hidden;
  border-bottom: 1px solid var(--ink);
  background: var(--sheet);
  cursor: crosshair;
  touch-action: none;
}

.wave.heard {
  height: var(--strip);
  border: 0;
  cursor: default;
}

canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.phrase {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 1px solid var(--line-strong);
  pointer-events: none;
}

.sign,
.dropped,
.chosen,
.pointed,
.overlap {
  position: absolute;
  top: 0;
  bottom: 0;
  pointer-events: none;
}

.sign.skip,
.sign.drop_out,
.dropped {
  background: repeating-linear-gradient(-45deg, var(--veil) 0 6px, transparent 6px 10px);
}

.sign.repeat,
.sign.swap {
  border: 2px solid var(--ink);
  border-width: 0 2px 2px;
}

.sign.waits {
  opacity: 0.4;
}

.plate {
  position: absolute;
  bottom: 4px;
  left: 4px;
  padding: 0 5px;
  border: 1px solid var(--ink);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font-size: 12px;
  line-height: 16px;
  white-space: nowrap;
}

.chosen {
  border: 2px solid var(--fern);
  background: color-mix(in srgb, var(--fern) 16%, transparent);
}

.pointed {
  border: 2px dashed var(--fern);
}

.overlap {
  background: color-mix(in srgb, var(--fern) 10%, transparent);
  border: solid var(--fern);
  border-width: 0 1px;
}

.join {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 2px dashed var(--ink);
  pointer-events: none;
}
</style>
