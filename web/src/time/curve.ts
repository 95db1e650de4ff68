import type { CurveShape } from '../api/types'

/** Fader position at a place of the overlap (0..1, held beyond), as `core/curve.py` has it. */
export function valueAt(curve: CurveShape, place: number): number {
  const points = curve.points
  const first = points[0]!
  if (place <= first.at) return first.value
  for (let i = 1; i < points.length; i++) {
    const a = points[i - 1]!
    const b = points[i]!
    if (place <= b.at) return a.value + ((place - a.at) / (b.at - a.at)) * (b.value - a.value)
  }
  return points[points.length - 1]!.value
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
