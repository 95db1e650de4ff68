import type { Curve } from '../api/types'

/** A control that stays where it is. */
export function level(value: number): Curve {
  return [
    [0, value],
    [1, value],
  ]
}

/** Position at a place of the overlap (0..1, held beyond), as `core/mix/curve.py` has it. */
export function valueAt(curve: Curve, place: number): number {
  const [firstAt, firstValue] = curve[0]!
  if (place <= firstAt) return firstValue
  for (let i = 1; i < curve.length; i++) {
    const [a, from] = curve[i - 1]!
    const [b, to] = curve[i]!
    if (place <= b) return from + ((place - a) / (b - a)) * (to - from)
  }
  return curve[curve.length - 1]![1]
}

/** Linear gain of a fader position. */
export function gainOf(value: number): number {
  return Math.sin((value * Math.PI) / 2)
}

/** A fader position in words: dB, or off. */
export function levelText(value: number): string {
  if (value <= 0) return 'off'
  const db = 20 * Math.log10(gainOf(value))
  return db > -0.05 ? '0 dB' : `−${Math.abs(db).toFixed(1)} dB`
}

/** The fader position of a gain in dB, at most 0. */
export function positionOf(db: number): number {
  return (2 / Math.PI) * Math.asin(Math.min(1, 10 ** (db / 20)))
}
