import type { Control, CurvePoint, CurveShape, Side } from '../api/types'

/** A point of a curve that is looked at. */
export interface PickedPoint {
  side: Side
  control: Control
  index: number
}

/** Points keep at least this distance; the server asks for less. */
const GAP = 0.002

/** A curve with a point moved, kept between its neighbours and true to what the side must start or end with. */
export function withMoved(
  curve: CurveShape,
  index: number,
  at: number,
  value: number,
  side: Side,
): CurveShape {
  const points = curve.points.map((p) => ({ ...p }))
  const point = points[index]
  if (!point) return curve
  const before = points[index - 1]
  const after = points[index + 1]
  const low = before ? before.at + GAP : 0
  const high = after ? after.at - GAP : 1
  const isEnd = index === 0 || index === points.length - 1
  if (!isEnd) point.at = clamp(at, low, high)
  if (!isFixed(curve, index, side)) point.value = clamp(value, 0, 1)
  return { points }
}

/** A curve with a point added, or undefined where there is no room for one. */
export function withAdded(
  curve: CurveShape,
  at: number,
  value: number,
): { curve: CurveShape; index: number } | undefined {
  const points: CurvePoint[] = [...curve.points]
  const index = points.findIndex((p) => p.at > at)
  if (index <= 0 || at - points[index - 1]!.at < GAP || points[index]!.at - at < GAP) return undefined
  points.splice(index, 0, { at, value: clamp(value, 0, 1) })
  return { curve: { points }, index }
}

/** A curve with a point taken out; the first and the last stay. */
export function withRemoved(curve: CurveShape, index: number): CurveShape {
  if (index <= 0 || index >= curve.points.length - 1) return curve
  return { points: curve.points.filter((_, i) => i !== index) }
}

/** Whether a point's value is given: the outgoing starts neutral, the incoming ends neutral. */
export function isFixed(curve: CurveShape, index: number, side: Side): boolean {
  return side === 'outgoing' ? index === 0 : index === curve.points.length - 1
}

/** A curve that begins and ends at the edges of the overlap, so that all of it has points to hold on to. */
export function withEnds(curve: CurveShape): CurveShape {
  const points = [...curve.points]
  if (points[0]!.at > 0) points.unshift({ at: 0, value: points[0]!.value })
  const last = points[points.length - 1]!
  if (last.at < 1) points.push({ at: 1, value: last.value })
  return { points }
}

function clamp(value: number, low: number, high: number): number {
  return Math.max(low, Math.min(value, high))
}
