import type { Curve, CurvePoint } from '../api/types'

/** A point from which the curve goes straight on. */
export function point(at: number, value: number): CurvePoint {
  return [at, value, 'straight']
}

/** A control that stays where it is. */
export function level(value: number): Curve {
  return [point(0, value), point(1, value)]
}

/** Position at a place of the overlap (0..1, held beyond), as `core/mix/curves/curve.py` has it. */
export function valueAt(curve: Curve, place: number): number {
  const [firstAt, firstValue] = curve[0]!
  if (place <= firstAt) return firstValue
  for (let i = 1; i < curve.length; i++) {
    const [a, from, onward] = curve[i - 1]!
    const [b, to] = curve[i]!
    if (place < b || (place === b && i === curve.length - 1)) {
      const t = (place - a) / (b - a)
      if (onward === 'step') return place < b ? from : to
      return from + (onward === 'smooth' ? t * t * (3 - 2 * t) : t) * (to - from)
    }
  }
  return curve[curve.length - 1]![1]
}
