<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { Cue, Side } from '../../api/types'
import { placingDrag } from '../../composables/transition/placingDrag'
import { useCanvas } from '../../composables/page/useCanvas'
import { startDrag } from '../../composables/page/useDrag'
import { useCurves } from '../../composables/transition/useCurves'
import type { TransitionSide } from '../../time/transitionSide'
import { useTransition } from '../../composables/transition/useTransition'
import { drawSeam } from '../../drawing/seam'
import { leftOutOf, seamSideOf, spanOf } from '../../drawing/seamSide'
import { hueOf, inkOf } from '../../theme/hues'
import { useTokens } from '../../theme/tokens'
import type { EntryClock } from '../../time/entryClock'
import { stakesOf, type Stake } from '../../time/cues'
import { barBeat } from '../../time/format'
import CuePlates from '../cues/CuePlates.vue'

/** So wide are a letter of a title, what is around it, and a plate that reaches in from the left, in pixels. */
const [LETTER, TITLE_STARTS, PLATE] = [8, 20, 60]

/** Both tracks of a transition at the line where they meet, to be slid against each other and to be cut to length. */
defineProps<{
  /** Where it could lie instead, in pixels. */
  ghosts?: { x: number; width: number; isPointed: boolean; text: string }[]
}>()
const emit = defineEmits<{ listen: [seconds: number] }>()

const { planned, axis, outgoing, incoming, t, kind, view, placing } = useTransition()
const { place } = placing
const tokens = useTokens()
const { curveOf } = useCurves()
const box = useTemplateRef<HTMLElement>('box')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width, height } = useElementSize(box)
const { drag, key } = placingDrag(placing, view)

const startX = computed(() => view.xOf(placing.start.value))
const endX = computed(() => view.xOf(placing.end.value))
const leadX = computed(() => view.xOf(placing.leads.value))
const shaded = computed(() => {
  if (kind.value === 'cut') return { x: leadX.value, width: startX.value - leadX.value }
  return { x: startX.value, width: Math.max(0, endX.value - startX.value) }
})
const handles = computed(() => {
  const { outAt, beats, lead } = place.value
  const start = { part: 'start' as const, x: startX.value, beat: outAt, label: 'Start of the overlap' }
  const end = { part: 'end' as const, x: endX.value, beat: outAt + beats, label: 'End of the overlap' }
  switch (kind.value) {
    case 'cut':
      return [
        { part: 'lead' as const, x: leadX.value, beat: outAt - lead, label: 'Start of the lead' },
        { ...start, part: 'body' as const, label: 'The cut' },
      ]
    case 'apart':
      return [
        { ...start, label: 'End of the outgoing track' },
        { ...end, label: 'Start of the incoming track' },
      ]
    default:
      return [start, end]
  }
})

function sideOf(side: Side) {
  const shown = {
    volume: curveOf(t.value, side, 'volume'),
    law: t.value.volume_law,
    span: spanOf(kind.value, side, placing.start.value, placing.end.value, place.value.lead),
    leftOut: placing.dragging.value ? undefined : leftOutOf(planned.value, side, axis.value),
  }
  return side === 'outgoing'
    ? seamSideOf(outgoing.value, side, view.perBeat.value, shown)
    : seamSideOf(incoming.value, side, view.perBeat.value, shown, placing.incomingOffset.value)
}

useCanvas(canvas, ({ context, width: w, height: h, ratio }) => {
  drawSeam(context, w, h, ratio, {
    from: view.from.value,
    perBeat: view.perBeat.value,
    outgoing: sideOf('outgoing'),
    incoming: sideOf('incoming'),
    tokens: tokens.value,
  })
})

/** Each side's cues; those of the incoming go along while it is dragged. */
function stakesOfSide(side: TransitionSide, clock: EntryClock) {
  return stakesOf(side.cues, side.suggested, (at) =>
    clock.placesOf(at).map((b) => view.xOf(clock.mixBeat(b))),
  )
}
/** Whether a plate stands where the title would: then it moves past the rows of plates. */
const meets = (stakes: Stake[], title: string) =>
  stakes.some(({ x }) => x > -PLATE && x < title.length * LETTER + TITLE_STARTS)

const outStakes = computed(() => stakesOfSide(outgoing.value, outgoing.value.clock))
const inStakes = computed(() =>
  stakesOfSide(incoming.value, incoming.value.clock.at(placing.incomingOffset.value)),
)

function listenFrom(side: TransitionSide, cue: Cue) {
  const [beat] = side.clock.placesOf(cue.at)
  if (beat !== undefined) emit('listen', Math.max(0, axis.value.timeAt(side.clock.mixBeat(beat))))
}

function panBy(event: PointerEvent) {
  let before = 0
  startDrag(event, {
    move: (dx) => {
      view.pan(before - dx)
      before = dx
    },
    drop: () => undefined,
    click: listenAt,
  })
}

function listenAt(event: PointerEvent) {
  const left = box.value!.getBoundingClientRect().left
  emit('listen', Math.max(0, axis.value.timeAt(view.beatOf(event.clientX - left))))
}
</script>

<template>
  <div ref="box" class="pair">
    <canvas ref="canvas" />
    <svg class="over" :width="width" :height="height">
      <rect class="outgoing-half" x="0" y="0" :width="width" :height="height / 2" @pointerdown="panBy">
        <title>Drag to move along; click to hear it from there</title>
      </rect>
      <rect
        class="incoming-half"
        x="0"
        :y="height / 2"
        :width="width"
        :height="height / 2"
        role="slider"
        tabindex="0"
        aria-label="Mix-in of the incoming track"
        :aria-valuenow="place.inAt"
        :aria-valuetext="`bar ${barBeat(place.inAt, incoming.clock.bars)}`"
        @pointerdown="(e) => drag(e, 'incoming', listenAt)"
        @keydown="(e) => key(e, 'incoming')"
      >
        <title>Drag to slide the incoming track along its beats</title>
      </rect>
      <g
        v-for="ghost in ghosts"
        :key="`${ghost.x} ${ghost.width}`"
        class="ghost"
        :class="{ pointed: ghost.isPointed }"
      >
        <rect :x="ghost.x" y="0.5" :width="ghost.width" :height="ghost.isPointed ? height - 1 : 5" />
      </g>
      <rect class="overlap" :x="shaded.x" y="0" :width="shaded.width" :height="height" />
      <template v-for="handle in handles" :key="handle.part">
        <line class="edge" :x1="handle.x" :x2="handle.x" y1="0" :y2="height" />
        <rect
          class="handle"
          :x="handle.x - 6"
          y="0"
          width="12"
          :height="height"
          role="slider"
          tabindex="0"
          :aria-label="handle.label"
          :aria-valuenow="handle.beat"
          :aria-valuetext="`bar ${barBeat(handle.beat, outgoing.clock.bars)}`"
          @pointerdown="(e) => drag(e, handle.part)"
          @keydown="(e) => key(e, handle.part)"
        />
      </template>
    </svg>
    <div class="half upper">
      <CuePlates
        :stakes="outStakes"
        :width="width"
        @choose="(cue) => listenFrom(outgoing, cue)"
        @accept="(cue) => listenFrom(outgoing, cue)"
      />
    </div>
    <div class="half lower">
      <CuePlates
        hangs
        :stakes="inStakes"
        :width="width"
        @choose="(cue) => listenFrom(incoming, cue)"
        @accept="(cue) => listenFrom(incoming, cue)"
      />
    </div>
    <span v-if="placing.caught.value" class="caught" role="status">on {{ placing.caught.value }}</span>
    <span
      class="name out"
      :class="{ past: meets(outStakes, outgoing.entry.title) }"
      :style="{ color: inkOf(hueOf(outgoing.entry.index)) }"
      >{{ outgoing.entry.title }}</span
    >
    <span
      class="name in"
      :class="{ past: meets(inStakes, incoming.entry.title) }"
      :style="{ color: inkOf(hueOf(incoming.entry.index)) }"
      >{{ incoming.entry.title }}</span
    >
  </div>
</template>

<style scoped>
.pair {
  position: relative;
  background: var(--sheet);
}

canvas,
.over {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.over {
  touch-action: none;
}

.outgoing-half,
.incoming-half {
  fill: transparent;
}

.outgoing-half {
  cursor: default;
}

.incoming-half {
  cursor: ew-resize;
  outline: none;
}

.incoming-half:focus-visible {
  fill: var(--fern);
  fill-opacity: 0.05;
}

.overlap {
  fill: var(--fern);
  opacity: 0.06;
  pointer-events: none;
}

.ghost rect {
  fill: none;
  stroke: var(--ink-soft);
  stroke-dasharray: 3 3;
  pointer-events: none;
}

.ghost.pointed rect {
  fill: var(--ink);
  fill-opacity: 0.06;
  stroke: var(--ink);
}

.edge {
  stroke: var(--fern);
  stroke-width: 1.5;
  pointer-events: none;
}

.handle {
  fill: transparent;
  cursor: col-resize;
}

.handle:hover {
  fill: var(--fern);
  fill-opacity: 0.18;
}

.half {
  position: absolute;
  right: 0;
  left: 0;
  height: 50%;
  pointer-events: none;
}

.upper {
  top: 0;
}

.lower {
  bottom: 0;
}

.caught {
  position: absolute;
  top: 50%;
  left: 50%;
  padding: 1px 9px;
  border-radius: 9px;
  background: var(--ink);
  color: var(--sheet);
  font-size: 12px;
  pointer-events: none;
  transform: translate(-50%, -50%);
}

.name {
  position: absolute;
  left: 8px;
  padding: 0 5px;
  border-radius: 3px;
  background: var(--veil);
  font-weight: 600;
  pointer-events: none;
}

.name.out {
  top: 5px;
}

.name.in {
  bottom: 5px;
}

.name.out.past {
  top: 36px;
}

.name.in.past {
  bottom: 36px;
}
</style>
