<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Control, Curve, Side } from '../../api/types'
import { withAdded, withEnds, withMoved, withRemoved, isFixed } from '../../time/curveEdit'
import { startDrag } from '../../composables/useDrag'
import type { Hue } from '../../theme/hues'
import { levelText, valueAt } from '../../time/curve'

const SIDES: Side[] = ['outgoing', 'incoming']
const INSET = 7

const props = defineProps<{
  control: Control
  label: string
  curves: Record<Side, Curve>
  hues: Record<Side, Hue>
  /** Pixels of the overlap's edges. */
  startX: number
  endX: number
  width: number
  height: number
  /** Fader positions at the playhead, if it is in the overlap. */
  place: number | undefined
}>()
const emit = defineEmits<{ change: [side: Side, curve: Curve]; pick: [side: Side, index: number] }>()

const draft = ref<{ side: Side; curve: Curve }>()
const held = ref<{ side: Side; index: number }>()
watch(
  () => props.curves,
  () => (draft.value = undefined),
)

const shown = computed(() =>
  SIDES.map((side) => {
    const curve = withEnds(draft.value?.side === side ? draft.value.curve : props.curves[side])
    const points = curve.map(([at, value]) => ({ value, x: xOf(at), y: yOf(value) }))
    const line = points.map((p) => `${p.x},${p.y}`).join(' ')
    const before = side === 'outgoing' ? `0,${yOf(1)} ` : ''
    const after = side === 'incoming' ? ` ${props.width},${yOf(1)}` : ''
    return { side, curve, points, line: before + line + after }
  }),
)
const reading = computed(() => {
  const at = held.value
  if (at) {
    const point = shown.value.find((s) => s.side === at.side)?.curve[at.index]
    return point ? levelText(point[1]) : ''
  }
  if (props.place === undefined) return ''
  return SIDES.map((s) => levelText(valueAt(props.curves[s], props.place!))).join(' / ')
})

function xOf(at: number) {
  return props.startX + at * (props.endX - props.startX)
}
function yOf(value: number) {
  return INSET + (1 - value) * (props.height - 2 * INSET)
}

function commit() {
  const change = draft.value
  if (change) emit('change', change.side, change.curve)
}

function dragPoint(event: PointerEvent, side: Side, curve: Curve, index: number) {
  const [originAt, originValue] = curve[index]!
  held.value = { side, index }
  startDrag(event, {
    move: (dx, dy) => {
      const at = originAt + dx / Math.max(1, props.endX - props.startX)
      const value = originValue - dy / (props.height - 2 * INSET)
      draft.value = { side, curve: withMoved(curve, index, at, value, side) }
    },
    drop: () => {
      held.value = undefined
      commit()
    },
    click: () => (held.value = undefined),
  })
}

/** A press on the lane adds a point to the nearer curve, and holds it. */
function addPoint(event: PointerEvent) {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const at = (event.clientX - box.left - props.startX) / (props.endX - props.startX)
  if (!(at > 0 && at < 1)) return
  const value = 1 - (event.clientY - box.top - INSET) / (props.height - 2 * INSET)
  const nearest = [...shown.value].sort(
    (a, b) => Math.abs(valueAt(a.curve, at) - value) - Math.abs(valueAt(b.curve, at) - value),
  )[0]!
  const added = withAdded(nearest.curve, at, value)
  if (!added) return
  draft.value = { side: nearest.side, curve: added.curve }
  emit('pick', nearest.side, added.index)
  startDrag(event, {
    move: (dx, dy) => {
      const moved = withMoved(
        added.curve,
        added.index,
        at + dx / (props.endX - props.startX),
        value - dy / (props.height - 2 * INSET),
        nearest.side,
      )
      draft.value = { side: nearest.side, curve: moved }
    },
    drop: commit,
    click: commit,
  })
}

function remove(side: Side, curve: Curve, index: number) {
  const less = withRemoved(curve, index)
  if (less !== curve) emit('change', side, less)
}

function key(event: KeyboardEvent, side: Side, curve: Curve, index: number) {
  const [at, value] = curve[index]!
  const fine = event.shiftKey ? 0.2 : 1
  const steps: Record<string, [number, number]> = {
    ArrowUp: [0, 0.05],
    ArrowDown: [0, -0.05],
    ArrowLeft: [-0.02, 0],
    ArrowRight: [0.02, 0],
  }
  const step = steps[event.key]
  if (step) {
    event.preventDefault()
    emit('change', side, withMoved(curve, index, at + step[0] * fine, value + step[1] * fine, side))
  } else if (event.key === 'Delete' || event.key === 'Backspace') {
    event.preventDefault()
    remove(side, curve, index)
  }
}
</script>

<template>
  <div class="lane" :style="{ height: `${height}px` }">
    <svg :width="width" :height="height" :aria-label="`${label} curves`" role="group" @pointerdown="addPoint">
      <rect :x="startX" y="0" :width="Math.max(0, endX - startX)" :height="height" class="band" />
      <line x1="0" :x2="width" :y1="yOf(1)" :y2="yOf(1)" class="rule" />
      <line x1="0" :x2="width" :y1="yOf(0)" :y2="yOf(0)" class="rule" />
      <g v-for="{ side, curve, points, line } in shown" :key="side">
        <polyline :points="line" class="curve" :class="side" :stroke="hues[side].strong" />
        <template v-for="(point, i) in points" :key="i">
          <circle
            class="point"
            :class="{ fixed: isFixed(curve, i, side) }"
            :cx="point.x"
            :cy="point.y"
            r="5"
            :fill="side === 'outgoing' ? hues[side].strong : 'var(--sheet)'"
            :stroke="hues[side].strong"
            role="slider"
            tabindex="0"
            :aria-label="`${side} ${control} point ${i + 1}`"
            aria-valuemin="0"
            aria-valuemax="100"
            :aria-valuenow="Math.round(point.value * 100)"
            :aria-valuetext="levelText(point.value)"
            @pointerdown="(e) => dragPoint(e, side, curve, i)"
            @focus="emit('pick', side, i)"
            @dblclick.stop="remove(side, curve, i)"
            @keydown="(e) => key(e, side, curve, i)"
          >
            <title>
              {{ levelText(point.value)
              }}{{ isFixed(curve, i, side) ? ' (fixed, so that nothing jumps)' : ' · double click removes' }}
            </title>
          </circle>
        </template>
      </g>
    </svg>
    <span v-if="reading" class="reading">{{ reading }}</span>
  </div>
</template>

<style scoped>
.lane {
  position: relative;
}

svg {
  display: block;
  touch-action: none;
}

.band {
  fill: var(--sheet);
  cursor: crosshair;
}

.rule {
  stroke: var(--line);
}

.curve {
  fill: none;
  stroke-width: 2;
  pointer-events: none;
}

.incoming {
  stroke-dasharray: 7 3;
}

.point {
  stroke-width: 2;
  cursor: grab;
}

.point.fixed {
  cursor: default;
  opacity: 0.55;
}

.reading {
  top: 3px;
}
</style>
