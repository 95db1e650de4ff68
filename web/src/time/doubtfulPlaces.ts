import type { Offsets } from '../api/types'

const APART_BEATS = 16
/** Onsets that lie so far from their lines, in milliseconds, are as good as on them. */
export const FINE_MS = 3

export interface DoubtfulPlace {
  beat: number
  late: number
}

/** The worst offsets of a track, the worst first, no two of them close together. */
export function doubtfulPlaces(offsets: Offsets): DoubtfulPlace[] {
  const heard = offsets.late_ms
    .map((late, i) => ({ beat: offsets.first + i, late, clear: offsets.clear[i]! }))
    .filter((o) => o.clear > 0 && Math.abs(o.late) > FINE_MS)
    .sort((a, b) => Math.abs(b.late) - Math.abs(a.late))
  const found: DoubtfulPlace[] = []
  for (const { beat, late } of heard) {
    if (found.every((f) => Math.abs(f.beat - beat) >= APART_BEATS)) found.push({ beat, late })
  }
  return found
}

/** The half of all heard offsets that lies closest, in ms: what a row of numbers would say in one. */
export function typicalOffset(offsets: Offsets): number | undefined {
  const heard = offsets.late_ms.filter((_, i) => offsets.clear[i]! > 0).map(Math.abs)
  if (!heard.length) return undefined
  return heard.sort((a, b) => a - b)[Math.floor(heard.length / 2)]
}
