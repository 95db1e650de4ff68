import type { ControlSpec, Curve, CurvePoint, Law } from '../api/types'

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

/** Linear gain of a fader position, as `core/mix/curves/law.py` has it. */
export function gainOf(value: number, law: Law = 'fader'): number {
  return law === 'linear' ? value : Math.sin((value * Math.PI) / 2)
}

/** A fader position in words: dB, or off. */
export function levelText(value: number, law: Law = 'fader'): string {
  if (value <= 0) return 'off'
  const db = 20 * Math.log10(gainOf(value, law))
  return db > -0.05 ? '0 dB' : `−${Math.abs(db).toFixed(1)} dB`
}

/** The fader position of a gain in dB, at most 0. */
export function positionOf(db: number, law: Law = 'fader'): number {
  const gain = Math.min(1, 10 ** (db / 20))
  return law === 'linear' ? gain : (2 / Math.PI) * Math.asin(gain)
}

const MIDDLE = 0.5
const LOW_PASS_HZ = [80, 20_000] as const
const HIGH_PASS_HZ = [30, 10_000] as const

/** The cut-off of a filter at a position: of a low-pass below the middle, of a high-pass above it. */
export function cutoffOf(value: number): number {
  const [low, high] = value < MIDDLE ? LOW_PASS_HZ : HIGH_PASS_HZ
  const share = value < MIDDLE ? value / MIDDLE : value / MIDDLE - 1
  return low * (high / low) ** share
}

/** The position of a filter that cuts off at a frequency; below the middle for a low-pass. */
export function positionOfCutoff(hz: number, passesHigh: boolean): number {
  const [low, high] = passesHigh ? HIGH_PASS_HZ : LOW_PASS_HZ
  const share = Math.min(1, Math.max(0, Math.log(hz / low) / Math.log(high / low)))
  return passesHigh ? MIDDLE + MIDDLE * share : MIDDLE * share
}

function filterText(value: number): string {
  if (Math.abs(value - MIDDLE) < 0.002) return 'open'
  const hz = cutoffOf(value)
  const text = hz < 1000 ? `${Math.round(hz)} Hz` : `${(hz / 1000).toFixed(hz < 10_000 ? 1 : 0)} kHz`
  return value < MIDDLE ? `below ${text}` : `above ${text}`
}

/** A control's position in words. */
export function positionText(spec: Pick<ControlSpec, 'law'>, value: number): string {
  return spec.law === 'filter' ? filterText(value) : levelText(value, spec.law)
}
