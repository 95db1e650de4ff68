import type { Entry, Seated } from '../api/types'

/** A place of an order as profiles show it; ‘energy’ over its time there, from its start to its end. */
export interface ProfilePoint {
  id: string
  title: string
  bpm: number | null
  /** The tempo over its time there, where it changes on the way. */
  course: readonly number[]
  key: string | null
  walk: number | null
  energy: readonly (number | null)[]
}

export interface Range {
  low: number
  high: number
}

/** A mix's own range is never drawn narrower than this, or a tenth of a BPM would look like a leap. */
const LEAST = { bpm: 4, walk: 4, energy: 0.2 }

export const pointOfEntry = (entry: Entry, key: string | null = entry.key): ProfilePoint => ({
  id: entry.id,
  title: entry.title,
  bpm: entry.home_bpm,
  course: entry.course,
  key,
  walk: entry.walk,
  energy: entry.energy,
})

export const pointOfSeat = (seat: Seated, place: number): ProfilePoint => ({
  id: `${place}/${seat.track_id}`,
  title: seat.title,
  bpm: seat.bpm,
  course: [],
  key: seat.key,
  walk: seat.walk,
  energy: [seat.energy],
})

/** The ranges of all three profiles over some orders. */
export function rangesOf(points: readonly ProfilePoint[]): Record<'bpm' | 'walk' | 'energy', Range> {
  return {
    bpm: rangeOf(
      points.flatMap((p) => [p.bpm, ...p.course]),
      LEAST.bpm,
    ),
    walk: rangeOf(
      points.map((p) => p.walk),
      LEAST.walk,
    ),
    energy: rangeOf(
      points.flatMap((p) => p.energy),
      LEAST.energy,
    ),
  }
}

function rangeOf(values: readonly (number | null)[], least: number): Range {
  const known = values.filter((v): v is number => v !== null)
  if (!known.length) return { low: 0, high: least }
  const low = Math.min(...known)
  const high = Math.max(...known)
  const spare = Math.max(0, least - (high - low)) / 2
  return { low: low - spare, high: high + spare }
}

/** Where a value lies in a range, from 0 to 1. */
export const shareOf = (value: number, { low, high }: Range): number => (value - low) / (high - low)
