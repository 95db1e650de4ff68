<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef, watch } from 'vue'
import type { PlannedLayer } from '../../api/types'
import { useCanvas } from '../../composables/page/useCanvas'
import { startDrag } from '../../composables/page/useDrag'
import { useGrids } from '../../composables/mix/useGrids'
import { useLayerLanes } from '../../composables/layers/useLayerLanes'
import type { Layers } from '../../composables/layers/useLayers'
import { useSeamView } from '../../composables/transition/useSeamView'
import { drawEntryWaves, laidOn } from '../../drawing/entryWaves'
import { useMix } from '../../stores/mix'
import { hueOf, inkOf } from '../../theme/hues'
import { EntryClock } from '../../time/entryClock'
import CurveLane from '../transitions/CurveLane.vue'
import LaneLabel from '../transitions/LaneLabel.vue'
import LaneMenu from '../transitions/LaneMenu.vue'
import { BarLines } from '../../time/barLines'
import { barNumbersOf } from '../../time/beatLines'
import LayerRows from './LayerRows.vue'

const AROUND = 24
/** Beats that are shown where no layer is chosen. */
const FIRST_SHOWN = 128
const MARK_EVERY = 64
/** A layer's curves are in the colour of what is chosen. */
const HUE = { name: 'fern', strong: 'var(--fern)', on: 'var(--sheet)', middle: 'var(--fern)', pale: 'var(--fern-soft)' } // prettier-ignore

/** The mix, entry by entry at the line where they meet, under its layers and over the lanes of the chosen one. */
const props = defineProps<{
  layers: Layers
  chosen: PlannedLayer | undefined
  /** Beats on which things snap; 0 is free. */
  unit: number
  /** Seconds of the mix at the playhead. */
  playhead: number | undefined
}>()
const emit = defineEmits<{ listen: [seconds: number]; choose: [id: string] }>()

const mix = useMix()
const stage = useTemplateRef<HTMLElement>('stage')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width } = useElementSize(stage)
const view = useSeamView(stage, width)
const clock = computed(() => mix.clock!)
const xOf = (seconds: number) => view.xOf(clock.value.beatAt(seconds))
const secondsOf = (x: number) => clock.value.timeAt(view.beatOf(x))
const inView = computed(() => {
  const [from, to] = [secondsOf(0), secondsOf(width.value)]
  return (mix.plan?.entries ?? []).filter((e) => e.start_s < to && e.end_s > from)
})
const grids = useGrids(inView)
const laid = computed(() =>
  inView.value.map((entry) => {
    const of = EntryClock.of(entry, grids.value.get(entry.track_id)?.grid)
    const [before, after] = [mix.plan?.transitions[entry.index - 1], mix.plan?.transitions[entry.index]]
    const alone = { start_s: before?.end_s ?? entry.start_s, end_s: after?.start_s ?? entry.end_s }
    return laidOn(clock.value, mix.clocks[entry.clock]!, entry, of, alone)
  }),
)
const { editing, lanes, lanesLeft, openLane, foldLane } = useLayerLanes(
  computed(() => props.chosen),
  computed(() => props.unit),
  props.layers.put,
)
const span = computed(() => {
  const c = props.chosen
  return c && { startX: xOf(c.start_s), endX: xOf(c.end_s) }
})
const playX = computed(() => (props.playhead === undefined ? undefined : xOf(props.playhead)))

useCanvas(canvas, ({ context, width: w, height, ratio }) => {
  drawEntryWaves(
    context,
    w,
    height,
    ratio,
    { from: view.from.value, perBeat: view.perBeat.value },
    laid.value,
  )
})

/** Bars are counted by whoever leads: from where an entry has half come in to where the next one has. */
const marks = computed(() => {
  const all = mix.plan?.transitions ?? []
  const middle = (i: number) => (all[i] ? (all[i].start_s + all[i].end_s) / 2 : Infinity)
  return laid.value.flatMap(({ entry, zero, scale }) => {
    const x = (beat: number) => view.xOf(zero + beat * scale)
    const from = Math.max(0, entry.index ? xOf(middle(entry.index - 1)) : xOf(entry.start_s))
    const to = Math.min(width.value, Number.isFinite(middle(entry.index)) ? xOf(middle(entry.index)) : xOf(entry.end_s)) // prettier-ignore
    const [first, last] = [from, to].map((at) => (view.beatOf(at) - zero) / scale)
    const perBeat = scale * view.perBeat.value
    if (to <= from) return []
    return barNumbersOf(BarLines.ofEntry(entry), first!, last!, perBeat, MARK_EVERY).map(({ beat, bar }) => ({
      key: `${entry.id} ${bar}`,
      x: x(beat),
      text: `${bar}`,
    }))
  })
})
const names = computed(() =>
  laid.value.map(({ entry }) => ({
    entry,
    x: Math.max(8, xOf(entry.start_s) + 8),
    hangs: entry.index % 2 === 1,
  })),
)
const sung = computed(() =>
  laid.value.flatMap(({ entry, clock: of, zero, scale }) =>
    (grids.value.get(entry.track_id)?.voice ?? [])
      .flatMap((v) => of.spansOf(v.start, v.end))
      .map((s) => ({
        key: `${entry.id} ${s.start}`,
        left: Math.max(view.xOf(zero + s.start * scale), xOf(entry.start_s)),
        right: Math.min(view.xOf(zero + s.end * scale), xOf(entry.end_s)),
        hangs: entry.index % 2 === 1,
        title: entry.title,
        hue: hueOf(entry.index),
      }))
      .filter((s) => s.right > s.left),
  ),
)

/** Show the chosen layer with what is around it. */
function fit() {
  const c = props.chosen
  if (c) return view.fit(c.start_beat - AROUND, c.end_beat + AROUND)
  view.fit(clock.value.beatAt(0), clock.value.beatAt(0) + FIRST_SHOWN)
}
/** The moment in the middle of what is shown. */
const middle = () => secondsOf(width.value / 2)
function show(seconds: number) {
  const beat = clock.value.beatAt(seconds)
  view.fit(beat - FIRST_SHOWN / 2, beat + FIRST_SHOWN / 2)
}
defineExpose({ fit, show, middle, zoom: view.zoom })

/** One that is chosen is brought into view; where it is in view, nothing moves. */
watch(
  [() => props.chosen?.layer.id, width],
  ([id], [before] = [undefined, 0]) => {
    if (!width.value) return
    const c = props.chosen
    const isSeen = c && xOf(c.start_s) > 0 && xOf(c.end_s) < width.value
    if (id !== before && (id ?? before) !== undefined && isSeen) return
    if (!id && before) return
    fit()
  },
  { immediate: true },
)

function press(event: PointerEvent) {
  let before = 0
  startDrag(event, {
    move: (dx) => {
      view.pan(before - dx)
      before = dx
    },
    drop: () => undefined,
    click: (at) =>
      emit('listen', Math.max(0, secondsOf(at.clientX - stage.value!.getBoundingClientRect().left))),
  })
}
</script>

<template>
  <div class="stage">
    <div class="gutter">
      <span class="bar">bar</span>
      <span :style="{ height: `${Math.max(1, layers.rows.value.count) * 20}px` }" class="rows">layers</span>
      <span class="mix">mix</span>
      <LaneLabel
        v-for="lane in lanes"
        :key="lane.spec.control"
        :lane="lane"
        @fold="foldLane(lane.spec.control)"
      />
      <LaneMenu v-if="lanesLeft.length" :lanes="lanesLeft" class="lane more" @open="openLane" />
    </div>
    <div
      ref="stage"
      class="pane"
      tabindex="0"
      role="group"
      aria-label="The mix: wheel zooms, shift and wheel moves along"
    >
      <svg class="ruler" :width="width" height="22" aria-hidden="true">
        <text v-for="m in marks" :key="m.key" :x="m.x + 4" y="15">{{ m.text }}</text>
      </svg>
      <LayerRows
        :layers="layers"
        :x-of="xOf"
        :seconds-of="secondsOf"
        :width="width"
        :chosen="chosen?.layer.id"
        :unit="unit"
        @choose="(id) => emit('choose', id)"
      />
      <div class="wave" title="Click to hear it from there; drag to move along" @pointerdown="press">
        <canvas ref="canvas" />
        <span v-for="m in marks" :key="m.key" class="line" :style="{ left: `${m.x}px` }" />
        <span
          v-for="s in sung"
          :key="s.key"
          class="voice"
          :class="{ hangs: s.hangs }"
          :title="`${s.title}: voice`"
          :style="{ left: `${s.left}px`, width: `${s.right - s.left}px`, background: s.hue.strong }"
        />
        <span
          v-for="n in names"
          :key="n.entry.id"
          class="name"
          :class="{ hangs: n.hangs }"
          :style="{ left: `${n.x}px`, color: inkOf(hueOf(n.entry.index)) }"
          >{{ n.entry.title }}</span
        >
        <span
          v-if="span"
          class="under"
          :style="{ left: `${span.startX}px`, width: `${Math.max(1, span.endX - span.startX)}px` }"
        />
      </div>
      <CurveLane
        v-for="lane in span ? lanes : []"
        :key="lane.spec.control"
        class="lane"
        :spec="lane.spec"
        volume-law="fader"
        :editing="editing"
        :hues="{ layer: HUE }"
        :spans="{ layer: span }"
        :width="width"
        :height="lane.height"
        :play-x="playX"
      />
      <p v-if="lanesLeft.length" class="lane more" />
      <div v-if="playX !== undefined" class="playhead" :style="{ transform: `translateX(${playX}px)` }" />
    </div>
  </div>
</template>

<style scoped>
.stage {
  display: grid;
  flex: 1;
  grid-template-columns: 58px 1fr;
  min-height: 0;
  border-top: 1px solid var(--line);
}

.gutter {
  display: flex;
  flex-direction: column;
  padding-right: 8px;
  color: var(--ink-soft);
  font-size: 12px;
  text-align: right;
}

.bar {
  height: 22px;
  padding-top: 3px;
  color: var(--ink-faint);
}

.rows {
  line-height: 20px;
}

.mix {
  flex: 1;
  align-content: center;
}

.lane.more {
  flex: none;
  height: 26px;
  margin: 0;
  border-top: 1px solid var(--line);
}

.gutter .lane.more {
  border-top-color: transparent;
}

.pane {
  position: relative;
  display: flex;
  flex-direction: column;
  min-width: 0;
  overflow: hidden;
  border-left: 1px solid var(--line);
}

.ruler {
  display: block;
  flex: none;
  background: var(--sunken);
}

.ruler text {
  fill: var(--ink-soft);
  font-size: 12px;
}

.wave {
  position: relative;
  flex: 1;
  min-height: 120px;
  overflow: hidden;
  border-top: 1px solid var(--line);
  background: var(--sheet);
  touch-action: none;
}

canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.line {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 1px solid var(--bar);
  pointer-events: none;
}

.voice {
  position: absolute;
  top: 3px;
  height: 6px;
  border-radius: 3px;
}

.voice.hangs {
  top: auto;
  bottom: 3px;
}

.name {
  position: absolute;
  top: 12px;
  padding: 0 5px;
  border-radius: 3px;
  background: var(--veil);
  font-weight: 600;
  pointer-events: none;
}

.name.hangs {
  top: auto;
  bottom: 12px;
}

.under {
  position: absolute;
  top: 0;
  bottom: 0;
  border: solid var(--fern);
  border-width: 0 1px;
  background: color-mix(in srgb, var(--fern) 9%, transparent);
  pointer-events: none;
}

.pane > .lane {
  flex: none;
  border-top: 1px solid var(--line);
}

.playhead {
  left: 0;
}
</style>
