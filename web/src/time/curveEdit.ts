import type { Control, Curve, CurvePoint, Onward, Side } from '../api/types'
import { point } from './curve'

/** Whose curve it is: that of a side of a transition, which starts or ends neutral, or a layer's, which is free. */
export type CurveSide = Side | 'layer'

/** A point of a curve. */
export interface PickedPoint {
  side: CurveSide
  control: Control
  index: number
}

/** Points keep at least this distance; the server asks for less. */
const GAP = 0.002

/** A curve with a point moved, kept between its neighbours and true to what the side must start or end with. */
export function withMoved(curve: Curve, index: number, at: number, value: number, side: CurveSide): Curve {
  const [fromAt, fromValue] = curve[index] ?? [at, value]
  return withMovedTogether(curve, [index], at - fromAt, value - fromValue, side)
}

/**
 * A curve with several points moved by as much. They stay in their order and between those that are not moved; the
 * first and the last keep their places, and one that must be neutral its value.
 */
export function withMovedTogether(
  curve: Curve,
  indices: number[],
  by: number,
  rise: number,
  side: CurveSide,
): Curve {
  const chosen = new Set(indices.filter((i) => i >= 0 && i < curve.length))
  const inner = [...chosen].filter((i) => i > 0 && i < curve.length - 1)
  let least = -Infinity
  let most = Infinity
  for (const i of inner) {
    if (!chosen.has(i - 1) || i === 1) least = Math.max(least, curve[i - 1]![0] + GAP - curve[i]![0])
    if (!chosen.has(i + 1) || i === curve.length - 2)
      most = Math.min(most, curve[i + 1]![0] - GAP - curve[i]![0])
  }
  const move = least > most ? 0 : clamp(by, least, most)
  return curve.map((p, i): CurvePoint => {
    if (!chosen.has(i)) return p
    const at = inner.includes(i) ? p[0] + move : p[0]
    return [at, isFixed(curve, i, side) ? p[1] : clamp(p[1] + rise, 0, 1), p[2]]
  })
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
    curve: [...curve.slice(0, index), point(at, clamp(value, 0, 1)), ...curve.slice(index)],
    index,
  }
}

/** A curve with points taken out; the first and the last stay. */
export function withRemoved(curve: Curve, indices: number[]): Curve {
  const gone = indices.filter((i) => i > 0 && i < curve.length - 1)
  return gone.length ? curve.filter((_, i) => !gone.includes(i)) : curve
}

/** A curve that goes on from some of its points in another way. */
export function withOnward(curve: Curve, indices: number[], onward: Onward): Curve {
  return curve.map((p, i): CurvePoint => (indices.includes(i) ? [p[0], p[1], onward] : p))
}

/** Whether a point's value is given: the outgoing starts neutral, the incoming ends neutral. */
export function isFixed(curve: Curve, index: number, side: CurveSide): boolean {
  if (side === 'layer') return false
  return side === 'outgoing' ? index === 0 : index === curve.length - 1
}

/** A curve that begins and ends at the edges of the overlap, so that all of it has points to hold on to. */
export function withEnds(curve: Curve): Curve {
  const points = [...curve]
  const [firstAt, firstValue] = points[0]!
  if (firstAt > 0) points.unshift(point(0, firstValue))
  const [lastAt, lastValue] = points[points.length - 1]!
  if (lastAt < 1) points.push(point(1, lastValue))
  return points
}

/** A curve that somebody may put on a side: its first or last point takes the value that this must have there. */
export function suited(curve: Curve, side: CurveSide, neutral: number): Curve {
  const points = withEnds(curve)
  if (side === 'layer') return points
  const fixed = side === 'outgoing' ? 0 : points.length - 1
  return points.map((p, i): CurvePoint => (i === fixed ? [p[0], neutral, p[2]] : p))
}

/**
 * The partner of a curve on the other side: where the one leaves, the other arrives. Positions are mirrored, so that two
 * faders are of equal power together; what is to the left of its middle in a filter comes to lie to the right.
 */
export function mirrored(curve: Curve): Curve {
  return curve.map(([at, value, onward]): CurvePoint => [at, 1 - value, onward])
}

/** The nearest of the beats that are snapped to, as a place in an overlap of so many beats; free where there is no unit. */
export function snapped(at: number, beats: number, unit: number): number {
  return unit > 0 && beats > 0 ? clamp((Math.round((at * beats) / unit) * unit) / beats, 0, 1) : at
}

/** Whether a curve does nothing. */
export function isLevel(curve: Curve | undefined, neutral: number): boolean {
  return !curve || curve.every(([, value]) => value === neutral)
}

function clamp(value: number, low: number, high: number): number {
  return Math.max(low, Math.min(value, high))
}
