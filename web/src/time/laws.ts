import type { ControlSpec, Law } from '../api/types'

/** What the position of a control means on the page, as `core/mix/curves/law.py` has it. */
export interface LawView {
  /** A position in words. */
  text: (value: number) => string
  /** Positions at which a lane has a line. */
  rules: readonly number[]
  /** How a position is typed as a number. */
  field: {
    label: (value: number) => string
    unit: (value: number) => string
    step: number
    min: number
    max: number
    numberOf: (value: number) => number
    /** The position of a number; `before` is what it was. */
    positionOf: (number: number, before: number) => number
  }
}

/** Shown for a closed fader, which no finite number of dB is. */
const OFF_DB = -60

/** Linear gain of a fader position. */
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

function fader(law: Law): LawView {
  const dbOf = (value: number) => {
    const gain = gainOf(value, law)
    return gain > 0 ? Math.max(OFF_DB, Math.round(200 * Math.log10(gain)) / 10) : OFF_DB
  }
  return {
    text: (value) => levelText(value, law),
    rules: [1, 0],
    field: {
      label: () => 'Level',
      unit: (value) => (dbOf(value) <= OFF_DB ? 'off' : 'dB'),
      step: 1,
      min: OFF_DB,
      max: 0,
      numberOf: dbOf,
      positionOf: (db) => (db <= OFF_DB ? 0 : positionOf(db, law)),
    },
  }
}

const MIDDLE = 0.5
const LOW_PASS_HZ = [80, 20_000] as const
const HIGH_PASS_HZ = [30, 10_000] as const
const EDGE_HZ = [40, 10_240] as const

const between = ([low, high]: readonly [number, number], share: number) => low * (high / low) ** share
const shareOf = ([low, high]: readonly [number, number], hz: number) =>
  Math.min(1, Math.max(0, Math.log(hz / low) / Math.log(high / low)))

/** The cut-off of a filter at a position: of a low-pass below the middle, of a high-pass above it. */
export function cutoffOf(value: number): number {
  return value < MIDDLE ? between(LOW_PASS_HZ, value / MIDDLE) : between(HIGH_PASS_HZ, value / MIDDLE - 1)
}

/** The position of a filter that cuts off at a frequency; below the middle for a low-pass. */
export function positionOfCutoff(hz: number, passesHigh: boolean): number {
  return passesHigh ? MIDDLE + MIDDLE * shareOf(HIGH_PASS_HZ, hz) : MIDDLE * shareOf(LOW_PASS_HZ, hz)
}

/** The frequency of an edge at a position. */
export function edgeOf(value: number): number {
  return between(EDGE_HZ, value)
}

function hzText(hz: number): string {
  return hz < 1000 ? `${Math.round(hz)} Hz` : `${(hz / 1000).toFixed(hz < 10_000 ? 1 : 0)} kHz`
}

const FILTER: LawView = {
  text: (value) => {
    if (Math.abs(value - MIDDLE) < 0.002) return 'open'
    return `${value < MIDDLE ? 'below' : 'above'} ${hzText(cutoffOf(value))}`
  },
  rules: [1, MIDDLE, 0],
  field: {
    label: (value) => (value > MIDDLE ? 'Above' : 'Below'),
    unit: () => 'Hz',
    step: 50,
    min: 30,
    max: 20_000,
    numberOf: (value) => Math.round(cutoffOf(value)),
    positionOf: (hz, before) => positionOfCutoff(hz, before > MIDDLE),
  },
}

/** Below this position an edge does nothing that is heard. */
const STEREO = 0.002

const EDGE: LawView = {
  text: (value) => (value < STEREO ? 'stereo' : `mono below ${hzText(edgeOf(value))}`),
  rules: [1, 0],
  field: {
    label: () => 'Mono below',
    unit: (value) => (value < STEREO ? 'stereo' : 'Hz'),
    step: 10,
    min: 0,
    max: EDGE_HZ[1],
    numberOf: (value) => (value < STEREO ? 0 : Math.round(edgeOf(value))),
    positionOf: (hz) => shareOf(EDGE_HZ, hz),
  },
}

/** How each law is shown and typed. */
export const LAWS: Record<Law, LawView> = {
  fader: fader('fader'),
  linear: fader('linear'),
  filter: FILTER,
  edge: EDGE,
}

/** A control's position in words. */
export function positionText(spec: Pick<ControlSpec, 'law'>, value: number): string {
  return LAWS[spec.law].text(value)
}
