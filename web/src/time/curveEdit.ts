import type { Control, Curve, CurvePoint, Side } from '../api/types'

/** A point of a curve that is looked at. */
export interface PickedPoint {
  side: Side
  control: Control
  index: number
}

/** Points keep at least this distance; the server asks for less. */
const GAP = 0.002

/** A curve with a point moved, kept between its neighbours and true to what the side must start or end with. */
export function withMoved(curve: Curve, index: number, at: number, value: number, side: Side): Curve {
  const point = curve[index]
  if (!point) return curve
  const before = curve[index - 1]
  const after = curve[index + 1]
  const isEnd = index === 0 || index === curve.length - 1
  const moved: CurvePoint = [
    isEnd ? point[0] : clamp(at, before ? before[0] + GAP : 0, after ? after[0] - GAP : 1),
    isFixed(curve, index, side) ? point[1] : clamp(value, 0, 1),
  ]
  return curve.map((p, i) => (i === index ? moved : p))
}

/** A curve with a point added, or undefined where there is no room for one. */
export function withAdded(
  curve: Curve,
  at: number,
  value: number,
): { curve: Curve; index: number } | undefined {
  const index = curve.findIndex((p) => p[0] > at)
  if (index <= 0 || at - curve[index - 1]![0] < GAP || curve[index]![0] - at < GAP) return undefined
  return {
    curve: [...curve.slice(0, index), [at, clamp(value, 0, 1)], ...curve.slice(index)],
    index,
  }
}

/** A curve with a point taken out; the first and the last stay. */
export function withRemoved(curve: Curve, index: number): Curve {
  if (index <= 0 || index >= curve.length - 1) return curve
  return curve.filter((_, i) => i !== index)
}

/** Whether a point's value is given: the outgoing starts neutral, the incoming ends neutral. */
export function isFixed(curve: Curve, index: number, side: Side): boolean {
  return side === 'outgoing' ? index === 0 : index === curve.length - 1
}

/** A curve that begins and ends at the edges of the overlap, so that all of it has points to hold on to. */
export function withEnds(curve: Curve): Curve {
  const points = [...curve]
  const [firstAt, firstValue] = points[0]!
  if (firstAt > 0) points.unshift([0, firstValue])
  const [lastAt, lastValue] = points[points.length - 1]!
  if (lastAt < 1) points.push([1, lastValue])
  return points
}

function clamp(value: number, low: number, high: number): number {
  return Math.max(low, Math.min(value, high))
}
