import type { EnergyShape, Weights, Wishes } from '../api/types'

export const SHAPES: { value: EnergyShape; label: string }[] = [
  { value: 'wave', label: 'A wave with rests' },
  { value: 'rising', label: 'Rising' },
  { value: 'arc', label: 'An arc: up, and home' },
  { value: 'steady', label: 'Steady: small steps' },
  { value: 'drawn', label: 'Drawn by hand' },
  { value: 'any', label: 'Any' },
]

/** How many points a shape has that is drawn by hand. */
export const DRAWN_POINTS = 9

export const WEIGHTS: { name: keyof Weights; label: string; why: string }[] = [
  { name: 'tempo', label: 'Small tempo steps', why: 'Half and double time count as the same' },
  { name: 'key', label: 'Keys that fit', why: 'As far as they are known' },
  { name: 'energy', label: 'The shape of the energy', why: 'How near it stays to what is wished' },
  { name: 'room', label: 'Room for the transition', why: 'Bars without a voice at both ends' },
  { name: 'artist', label: 'Artists apart', why: 'The same artist not in a row, nor with one between' },
  { name: 'pairing', label: 'Saved pairings', why: 'What is known to go well together stays so' },
]

export const AIMS = {
  together: 'All together',
  tempo: 'Smoothest tempo',
  key: 'Closest keys',
  shape: 'The wished shape',
} as const

export const startingWishes = (): Wishes => ({
  weights: { tempo: 1, key: 1, energy: 1, artist: 1, pairing: 1, room: 1 },
  shape: 'wave',
  drawn: [],
  shifts: false,
  start_bpm: null,
  start_key: null,
  leave_out: 0,
  length_s: null,
  within_s: 120,
})

/** A shape at evenly spaced places; undefined where none is wished. */
export function levelsOf(points: readonly (readonly [number, number])[] | undefined, places: number) {
  if (!points?.length) return undefined
  return Array.from({ length: places }, (_, i) => levelAt(points, i / (places - 1)))
}

function levelAt(points: readonly (readonly [number, number])[], at: number): number {
  const after = points.findIndex(([place]) => place >= at)
  if (after <= 0) return points[after < 0 ? points.length - 1 : 0]![1]
  const [x0, y0] = points[after - 1]!
  const [x1, y1] = points[after]!
  return x1 === x0 ? y1 : y0 + ((at - x0) / (x1 - x0)) * (y1 - y0)
}
