<script setup lang="ts">
import { Segmented } from 'ant-design-vue'
import { computed, ref, useTemplateRef } from 'vue'
import type { Cue, Grid } from '../../api/types'
import { useCanvas } from '../../composables/page/useCanvas'
import { startDrag } from '../../composables/page/useDrag'
import { onsetsOf } from '../../pictures/trackPictures'
import { LEAD, weaveImage, type Band } from '../../drawing/weave'
import { useTokens } from '../../theme/tokens'
import { BeatGrid } from '../../time/grid'
import { lineDraft, slidDraft } from '../../time/gridDraft'
import { plateOf } from '../../time/cues'
import { beatsLong, bpm } from '../../time/format'
import { isSwung } from '../../time/swing'

type Pull = 'slide' | 'stretch'

const BANDS = [
  { value: 'full', label: 'All sound' },
  { value: 'low', label: 'Low only' },
]
const PULLS = [
  { value: 'slide', label: 'Slide' },
  { value: 'stretch', label: 'Stretch' },
]

const props = defineProps<{
  trackId: string
  duration: number
  grid: Grid
  /** The grid that a drag elsewhere is trying, to be shown meanwhile. */
  tried: Grid | undefined
  /** How much longer the first eighth of a beat is played than the second; null where that was not heard. */
  swing: number | null
  cues: Cue[]
  cursor: number
}>()
const emit = defineEmits<{
  place: [seconds: number]
  draft: [grid: Grid | undefined]
  slide: [seconds: number]
  line: [beat: number, seconds: number]
}>()

const tokens = useTokens()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const band = ref<Band>('full')
const pull = ref<Pull>('slide')
const draft = ref<Grid>()
const hover = ref<{ x: number; y: number; bar: number; ms: number }>()

const shown = computed(() => new BeatGrid(draft.value ?? props.tried ?? props.grid))
/** How many beats a row has room for; a shorter bar leaves the rest of its row empty. */
const room = computed(() => shown.value.bars.longest)
/** The rows stay those of the grid as it is stored, so that a drag does not make them jump. */
const rows = computed(() => {
  const grid = new BeatGrid(props.grid)
  const first = grid.bars.barOf(grid.beatAt(0))
  const last = Math.ceil(grid.bars.at(grid.beatAt(props.duration)))
  return { first, count: Math.max(1, last - first) }
})
const onsets = computed(() => onsetsOf(props.trackId))

const { width, height } = useCanvas(canvas, ({ context, width: w, height: h }) => {
  const heard = onsets.value
  if (!heard || heard === 'none') return
  const image = weaveImage({
    onsets: heard,
    grid: shown.value,
    band: band.value,
    firstBar: rows.value.first,
    bars: rows.value.count,
    beats: room.value,
    ink: rgb(tokens.value.ink),
  })
  const small = document.createElement('canvas')
  small.width = image.width
  small.height = image.height
  small.getContext('2d')!.putImageData(image, 0, 0)
  context.imageSmoothingEnabled = false
  context.drawImage(small, 0, 0, w, h)
  for (let beat = 0; beat <= room.value; beat++) {
    const x = Math.round(((beat + LEAD) / room.value) * w)
    context.fillStyle = beat % room.value === 0 ? tokens.value.bar : tokens.value.beat
    context.fillRect(x, 0, 1, h)
  }
  if (!isSwung(props.swing)) return
  const late = props.swing / (1 + props.swing)
  context.fillStyle = tokens.value.beat
  for (let beat = -1; beat < room.value; beat++) {
    const x = Math.round(((beat + late + LEAD) / room.value) * w)
    for (let y = 0; y < h; y += 8) context.fillRect(x, y, 1, 3)
  }
})

/** The row in which a beat lies, and how many beats from its left edge: half a beat before a bar belongs to it. */
const spotOf = (beat: number) => {
  const bar = shown.value.bars.barOf(beat + LEAD)
  return { row: bar - rows.value.first, along: beat + LEAD - shown.value.bars.beatOf(bar) }
}
const cursorY = computed(
  () => (spotOf(shown.value.beatAt(props.cursor)).row / rows.value.count) * height.value,
)
const rowHeight = computed(() => height.value / rows.value.count)
/** Where a bar number stands at the left: as many as have room. */
const marks = computed(() => {
  const every = [4, 8, 16, 32, 64].find((n) => n * rowHeight.value >= 26) ?? 128
  const found = []
  const { first, count } = rows.value
  for (let bar = Math.ceil(first / every) * every; bar < first + count; bar += every) {
    found.push({ bar: bar + 1, y: (bar - first) * rowHeight.value })
  }
  return found
})

/** A step of less than this share is a player's. */
const STEP = 0.03
/** The weave breaks where another tempo begins, or a ramp. */
const breaks = computed(() =>
  shown.value.breaks(STEP).flatMap(([beat, tempo]) => {
    const { row } = spotOf(beat)
    return row > 0 && row < rows.value.count ? [{ y: row * rowHeight.value, text: bpm(tempo) }] : []
  }),
)
/** Odd bars, whose rows are shorter or longer. */
const odd = computed(() => {
  const grid = shown.value
  return grid.bars.odd(grid.beatAt(0), grid.beatAt(props.duration)).map(({ beat, beats }) => ({
    y: spotOf(beat).row * rowHeight.value,
    text: beatsLong(beats),
  }))
})

const PLATE_HEIGHT = 14
const LETTER = 6.4
/** Each cue in the row of its bar; plates of rows that are close stand beside each other. */
const stakes = computed(() => {
  let last = { y: -Infinity, until: 0 }
  return props.cues.map((cue) => {
    const { row, along } = spotOf(cue.at)
    const text = plateOf(cue)
    const y = row * rowHeight.value
    const aside = y - last.y < PLATE_HEIGHT ? last.until : 0
    last = { y, until: aside + text.length * LETTER + 13 }
    return { cue, text, aside, left: (along / room.value) * 100, y }
  })
})

function spot(event: PointerEvent, box: DOMRect) {
  const x = Math.min(Math.max(0, event.clientX - box.left), box.width)
  const y = Math.min(Math.max(0, event.clientY - box.top), box.height - 1)
  const row = Math.floor((y / box.height) * rows.value.count)
  const beat = shown.value.bars.beatOf(rows.value.first + row) - LEAD + (x / box.width) * room.value
  return { x, y, row, beat, seconds: shown.value.timeAt(beat) }
}

function look(event: PointerEvent) {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const at = spot(event, box)
  const bar = rows.value.first + at.row
  const nearest = Math.round(at.beat)
  hover.value = { x: at.x, y: at.y, bar: bar + 1, ms: (at.seconds - shown.value.timeAt(nearest)) * 1000 }
}

function press(event: PointerEvent) {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const at = spot(event, box)
  const grid = new BeatGrid(props.grid)
  const barSeconds = grid.timeAt(at.beat + room.value / 2) - grid.timeAt(at.beat - room.value / 2)
  const line = Math.round(at.beat)
  const stretches = (pull.value === 'stretch') !== event.shiftKey
  let by = 0
  startDrag(event, {
    move(dx) {
      // What is drawn moves with the hand; the grid moves against it.
      by = -(dx / box.width) * barSeconds
      draft.value = stretches
        ? lineDraft(props.grid, line, grid.timeAt(line) + by)
        : slidDraft(props.grid, by)
      emit('draft', draft.value)
    },
    drop() {
      if (stretches) emit('line', line, grid.timeAt(line) + by)
      else emit('slide', by)
      draft.value = undefined
      emit('draft', undefined)
    },
    click: () => emit('place', Math.min(Math.max(0, at.seconds), props.duration)),
  })
}

function rgb(colour: string): [number, number, number] {
  const hex = Number.parseInt(colour.slice(1), 16)
  return [(hex >> 16) & 255, (hex >> 8) & 255, hex & 255]
}
</script>

<template>
  <section class="weave" aria-label="Weave">
    <header>
      <h2>Weave</h2>
      <span class="soft hint"
        >one row a bar: straight threads are a true grid<template v-if="isSwung(swing)"
          >; dashed, where swung eighths fall</template
        ></span
      >
      <span class="gap" />
      <Segmented v-model:value="band" :options="BANDS" size="small" aria-label="Band" />
      <span class="soft">Drag to</span>
      <Segmented v-model:value="pull" :options="PULLS" size="small" aria-label="Drag to" />
    </header>
    <div class="beats" aria-hidden="true">
      <span v-for="n in room" :key="n" :style="{ left: `${((n - 1 + LEAD) / room) * 100}%` }">{{ n }}</span>
    </div>
    <div class="body">
      <div class="bars" aria-hidden="true">
        <span v-for="m in marks" :key="m.bar" :style="{ top: `${m.y}px` }">{{ m.bar }}</span>
      </div>
      <div
        class="cloth"
        :data-pull="pull"
        @pointerdown="press"
        @pointermove="look"
        @pointerleave="hover = undefined"
      >
        <canvas ref="canvas" role="img" aria-label="Onsets of all bars, laid under each other" />
        <div v-if="onsets === 'none'" class="none soft">
          This track was analysed by an older version. Analyse it again to see its weave.
        </div>
        <div v-for="b in breaks" :key="b.y" class="break" :style="{ top: `${b.y}px` }">
          <span>{{ b.text }}</span>
        </div>
        <div v-for="o in odd" :key="`odd ${o.y}`" class="break odd" :style="{ top: `${o.y}px` }">
          <span>{{ o.text }}</span>
        </div>
        <div class="row" :style="{ top: `${cursorY}px`, height: `${Math.max(2, rowHeight)}px` }" />
        <span
          v-for="s in stakes"
          :key="s.cue.id"
          class="stake"
          :style="{ left: `${s.left}%`, top: `${s.y}px`, height: `${Math.max(3, rowHeight)}px` }"
          ><span class="plate" :style="{ left: `${s.aside}px` }">{{ s.text }}</span></span
        >
        <div
          v-if="hover"
          class="tip"
          :style="{
            left: `${Math.min(hover.x + 12, width - 130)}px`,
            top: `${Math.min(hover.y + 10, height - 28)}px`,
          }"
        >
          bar {{ hover.bar }} · {{ hover.ms > 0 ? '+' : '−' }}{{ Math.abs(hover.ms).toFixed(0) }} ms
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.weave {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

header {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 36px;
  padding: 0 12px 0 14px;
}

.hint {
  font-size: 12px;
}

.beats {
  position: relative;
  height: 15px;
  margin: 0 14px 0 44px;
  color: var(--ink-soft);
  font-size: 11px;
  line-height: 14px;
}

.beats span {
  position: absolute;
  transform: translateX(-50%);
}

.body {
  display: flex;
  flex: 1;
  min-height: 0;
  padding: 0 14px 8px 0;
}

.bars {
  position: relative;
  width: 44px;
  color: var(--ink-soft);
  font-size: 11px;
  text-align: right;
}

.bars span {
  position: absolute;
  right: 6px;
  line-height: 11px;
}

.cloth {
  position: relative;
  flex: 1;
  background: var(--sheet);
  cursor: ew-resize;
  touch-action: none;
}

canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.row {
  position: absolute;
  right: 0;
  left: 0;
  border: solid var(--fern);
  border-width: 1px 0;
  pointer-events: none;
}

.break {
  position: absolute;
  right: 0;
  left: 0;
  height: 0;
  border-top: 2px dashed var(--ink);
  pointer-events: none;
}

.break.odd {
  border-top: 1px dotted var(--ink);
}

.break span {
  position: absolute;
  z-index: 1;
  top: 4px;
  right: 4px;
  padding: 0 4px;
  background: var(--sheet);
  font-size: 11px;
  line-height: 14px;
}

.stake {
  position: absolute;
  border-left: 2px solid var(--ink-soft);
  pointer-events: none;
}

.plate {
  position: absolute;
  top: 50%;
  padding: 0 5px;
  border: 1px solid var(--ink-soft);
  border-left: 0;
  border-radius: 0 6px 6px 0;
  background: var(--sheet);
  font-size: 11px;
  line-height: 13px;
  white-space: nowrap;
  transform: translateY(-50%);
}

.none {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
}

.tip {
  position: absolute;
  padding: 2px 7px;
  border-radius: 3px;
  background: var(--ink);
  color: var(--sheet);
  font-size: 12px;
  white-space: nowrap;
  pointer-events: none;
}
</style>
