import type { Appraisal } from '../api/types'
import { clockTime } from './format'

/** A number of an order, and whether less of it is better. */
interface Measure {
  label: string
  title: string
  of: (a: Appraisal) => number | null
  shown: (value: number) => string
  /** 1 where more is better, -1 where less is, 0 where it is neither. */
  better: 1 | -1 | 0
}

const share = (value: number) => `${(value * 100).toFixed(1)} %`
const count = (value: number) => String(value)

export const MEASURES: Measure[] = [
  { label: 'Tempo bent', title: 'On the mean, from track to track', of: (a) => a.mean_bend, shown: share, better: -1 },
  { label: 'Largest', title: 'The largest tempo step', of: (a) => a.largest_bend, shown: share, better: -1 },
  { label: 'Leaps', title: 'Tempo steps of more than 8 %', of: (a) => a.leaps, shown: count, better: -1 },
  { label: 'Keys fit', title: 'Same, relative or a fifth away', of: (a) => a.fitting, shown: count, better: 1 },
  { label: 'Clashes', title: 'Keys that clash', of: (a) => a.clashes, shown: count, better: -1 },
  { label: 'Off the shape', title: 'How far the energy is from what is wished, on the mean', of: (a) => a.off_shape, shown: share, better: -1 },
  { label: 'Energy steps', title: 'From track to track, on the mean', of: (a) => a.energy_step, shown: share, better: -1 },
  { label: 'Artist twice', title: 'The same artist in a row', of: (a) => a.same_artist, shown: count, better: -1 },
  { label: 'Pairings', title: 'Saved pairings that are used', of: (a) => a.pairings, shown: count, better: 1 },
  { label: 'Little room', title: 'Transitions with less than 8 bars free of voices', of: (a) => a.short_rooms, shown: count, better: -1 },
  { label: 'Shifted', title: 'Tracks whose key is shifted', of: (a) => a.shifted, shown: count, better: 0 },
  { label: 'Tracks', title: 'How many there are', of: (a) => a.tracks, shown: count, better: 0 },
  { label: 'Lasts about', title: 'How long the mix will be', of: (a) => a.seconds, shown: clockTime, better: 0 },
] // prettier-ignore

export type Verdict = 'better' | 'worse' | 'same'

/** An order in numbers beside another: what is better and worse than there. */
export function weighed(order: Appraisal, beside: Appraisal) {
  return MEASURES.flatMap((m) => {
    const value = m.of(order)
    if (value === null) return []
    const change = (value - (m.of(beside) ?? value)) * m.better
    const verdict: Verdict = Math.abs(change) < 5e-4 ? 'same' : change > 0 ? 'better' : 'worse'
    return [{ label: m.label, title: m.title, text: m.shown(value), verdict }]
  })
}
