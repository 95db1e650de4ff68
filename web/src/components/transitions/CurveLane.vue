<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ControlSpec, Curve, Law } from '../../api/types'
import type { CurveEditing } from '../../composables/transition/useCurveEditing'
import type { LaneSpan } from '../../composables/transition/useLanes'
import { startDrag } from '../../composables/page/useDrag'
import type { Hue } from '../../theme/hues'
import { valueAt } from '../../time/curve'
import { LAWS, positionText } from '../../time/laws'
import { isFixed, withRemoved, type CurveSide, type PickedPoint } from '../../time/curveEdit'

const INSET = 7
/** Pixels between the places at which a curve that is not straight is drawn. */
const FINE = 3
const ONWARD = ['straight', 'smooth', 'step'] as const

const props = defineProps<{
  spec: ControlSpec
  /** What the volume's faders mean in this transition. */
  volumeLaw: Law
  editing: CurveEditing
  hues: Partial<Record<CurveSide, Hue>>
  /** A side without a span has no curve here. */
  spans: Partial<Record<CurveSide, LaneSpan | undefined>>
  width: number
  height: number
  /** Pixels of the playhead, if it is in the overlap. */
  playX: number | undefined
}>()

const held = ref<PickedPoint>()
/** A rectangle that is being drawn about points. */
const frame = ref<{ x: number; y: number; width: number; height: number }>()

const spec = computed(() =>
  props.spec.control === 'volume' ? { ...props.spec, law: props.volumeLaw } : props.spec,
)
const rules = computed(() => LAWS[props.spec.law].rules)
const sides = computed(() =>
  (['outgoing', 'incoming', 'layer'] as const).flatMap((side) => {
    const span = props.spans[side]
    const hue = props.hues[side]
    return span && hue ? [{ side, span, hue }] : []
  }),
)
const shown = computed(() =>
  sides.value.map(({ side, span, hue }) => {
    const curve = props.editing.shown(side, props.spec.control)
    const points = curve.map(([at, value], index) => ({
      value,
      x: xOf(span, at),
      y: yOf(value),
      point: { side, control: props.spec.control, index },
    }))
    const before = side === 'outgoing' ? `0,${yOf(props.spec.neutral)} ` : ''
    const after = side === 'incoming' ? ` ${props.width},${yOf(props.spec.neutral)}` : ''
    return { side, span, hue, curve, points, line: before + lineOf(curve, span) + after }
  }),
)
const reading = computed(() => {
  const at = held.value
  if (at) {
    const point = shown.value.find((s) => s.side === at.side)?.curve[at.index]
    return point ? positionText(spec.value, point[1]) : ''
  }
  const x = props.playX
  if (x === undefined) return ''
  return shown.value
    .map((s) => positionText(spec.value, valueAt(s.curve, (x - s.span.startX) / length(s.span))))
    .join(' / ')
})

const length = (span: LaneSpan) => Math.max(1, span.endX - span.startX)
const xOf = (span: LaneSpan, at: number) => span.startX + at * (span.endX - span.startX)
const yOf = (value: number) => INSET + (1 - value) * (props.height - 2 * INSET)
const riseOf = (dy: number) => -dy / (props.height - 2 * INSET)

function lineOf(curve: Curve, span: LaneSpan): string {
  const steps = Math.max(8, Math.round(length(span) / FINE))
  return curve
    .flatMap(([at, value, onward], i) => {
      const next = curve[i + 1]
      const places = [`${xOf(span, at)},${yOf(value)}`]
      if (next && onward === 'step') places.push(`${xOf(span, next[0])},${yOf(value)}`)
      else if (next && onward === 'smooth') {
        const pieces = Math.max(4, Math.round(steps * (next[0] - at)))
        for (let k = 1; k < pieces; k++) {
          const place = at + (k / pieces) * (next[0] - at)
          places.push(`${xOf(span, place)},${yOf(valueAt(curve, place))}`)
        }
      }
      return places
    })
    .join(' ')
}

function dragPoint(event: PointerEvent, span: LaneSpan, point: PickedPoint) {
  const more = event.shiftKey
  props.editing.pick(point, more)
  if (more) return
  held.value = point
  const release = () => (held.value = undefined)
  startDrag(event, {
    move: (dx, dy) => props.editing.drag(point, dx / length(span), riseOf(dy)),
    drop: () => {
      release()
      void props.editing.commit()
    },
    click: () => {
      release()
      props.editing.pickMany([point])
    },
  })
}

/** A press on the lane adds a point to the nearer curve, and holds it; with shift it frames points. */
function press(event: PointerEvent) {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const x = event.clientX - box.left
  const y = event.clientY - box.top
  if (event.shiftKey) return framePoints(event, x, y)
  const value = 1 - (y - INSET) / (props.height - 2 * INSET)
  const near = shown.value
    .map((s) => ({ ...s, at: (x - s.span.startX) / length(s.span) }))
    .filter((s) => s.at > 0 && s.at < 1)
    .sort((a, b) => Math.abs(valueAt(a.curve, a.at) - value) - Math.abs(valueAt(b.curve, b.at) - value))[0]
  if (!near) return
  const added = props.editing.add(near.side, props.spec.control, near.at, value)
  if (!added) return
  const from = props.editing.shown(near.side, props.spec.control)
  const commit = () => void props.editing.commit()
  startDrag(event, {
    move: (dx, dy) =>
      props.editing.dragAdded(added, near.at + dx / length(near.span), value + riseOf(dy), from),
    drop: commit,
    click: commit,
  })
}

function framePoints(event: PointerEvent, x: number, y: number) {
  startDrag(event, {
    move: (dx, dy) => {
      frame.value = {
        x: Math.min(x, x + dx),
        y: Math.min(y, y + dy),
        width: Math.abs(dx),
        height: Math.abs(dy),
      }
    },
    drop: () => {
      const f = frame.value
      frame.value = undefined
      if (!f) return
      const inside = (p: { x: number; y: number }) =>
        p.x >= f.x && p.x <= f.x + f.width && p.y >= f.y && p.y <= f.y + f.height
      props.editing.pickMany(shown.value.flatMap((s) => s.points.filter(inside).map((p) => p.point)))
    },
    click: () => props.editing.pickMany([]),
  })
}

function remove(side: CurveSide, curve: Curve, index: number) {
  const less = withRemoved(curve, [index])
  if (less !== curve) void props.editing.put(side, props.spec.control, less)
}

function key(event: KeyboardEvent, point: PickedPoint, curve: Curve) {
  const { side, control, index } = point
  if (!props.editing.isPicked(point)) props.editing.pick(point)
  const fine = event.shiftKey ? 0.2 : 1
  const across = props.editing.unit.value ? props.editing.unit.value / props.editing.beats(side) : 0.02
  const steps: Record<string, [number, number]> = {
    ArrowUp: [0, 0.05],
    ArrowDown: [0, -0.05],
    ArrowLeft: [-across, 0],
    ArrowRight: [across, 0],
  }
  const step = steps[event.key]
  const chord = event.ctrlKey || event.metaKey
  const acts: Record<string, () => unknown> = {
    Delete: () => props.editing.remove(),
    Backspace: () => props.editing.remove(),
    s: () => props.editing.setOnward(ONWARD[(ONWARD.indexOf(curve[index]![2]) + 1) % ONWARD.length]!),
  }
  const chords: Record<string, () => unknown> = {
    a: () => props.editing.pickMany(curve.map((_, i) => ({ side, control, index: i }))),
    c: () => props.editing.copy(side, control),
    v: () => props.editing.paste(side, control),
  }
  const act = step
    ? () => props.editing.nudge(step[0] * fine, step[1] * fine)
    : (chord ? chords : acts)[event.key]
  if (!act) return
  event.preventDefault()
  event.stopPropagation()
  void act()
}
</script>

<template>
  <div class="lane" :style="{ height: `${height}px` }">
    <svg
      :width="width"
      :height="height"
      :aria-label="`${spec.label} curves`"
      role="group"
      @pointerdown="press"
    >
      <rect
        v-for="{ side, span } in sides"
        :key="side"
        :x="span.startX"
        y="0"
        :width="Math.max(0, span.endX - span.startX)"
        :height="height"
        class="band"
      />
      <line
        v-for="value in rules"
        :key="value"
        x1="0"
        :x2="width"
        :y1="yOf(value)"
        :y2="yOf(value)"
        class="rule"
      />
      <g v-for="{ side, span, hue, curve, points, line } in shown" :key="side">
        <polyline :points="line" class="curve" :class="side" :stroke="hue.strong" />
        <template v-for="{ point, x, y, value } in points" :key="point.index">
          <circle v-if="editing.isPicked(point)" class="ring" :cx="x" :cy="y" r="8.5" />
          <circle
            class="point"
            :class="{ fixed: isFixed(curve, point.index, side) }"
            :cx="x"
            :cy="y"
            r="5"
            :fill="side === 'incoming' ? 'var(--sheet)' : hue.strong"
            :stroke="hue.strong"
            role="slider"
            tabindex="0"
            :aria-label="`${side} ${spec.control} point ${point.index + 1}`"
            aria-valuemin="0"
            aria-valuemax="100"
            :aria-valuenow="Math.round(value * 100)"
            :aria-valuetext="positionText(spec, value)"
            @pointerdown.stop="(e) => dragPoint(e, span, point)"
            @mousedown.prevent
            @focus="editing.pick(point)"
            @dblclick.stop="remove(side, curve, point.index)"
            @keydown="(e) => key(e, point, curve)"
          >
            <title>
              {{ positionText(spec, value)
              }}{{
                isFixed(curve, point.index, side)
                  ? ' (fixed, so that nothing jumps)'
                  : ' · double click removes · shift chooses more · S: straight, smooth, step'
              }}
            </title>
          </circle>
        </template>
      </g>
      <rect v-if="frame" class="frame" v-bind="frame" />
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

/* What cannot be moved is never in the way of what can. */
.point.fixed {
  opacity: 0.55;
  pointer-events: none;
}

.point:focus-visible {
  outline: none;
  stroke: var(--ink);
}

.ring {
  fill: none;
  stroke: var(--ink-soft);
  stroke-width: 1.25;
  pointer-events: none;
}

.frame {
  fill: var(--fern);
  fill-opacity: 0.1;
  stroke: var(--fern);
  stroke-dasharray: 3 3;
  pointer-events: none;
}

.reading {
  top: 3px;
}
</style>
