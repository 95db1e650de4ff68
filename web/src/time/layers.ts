import type { Layer, PlannedLayer } from '../api/types'
import type { Clock } from './clock'

const LEAST_BEATS = 0.25
const MOST_TIMES = 64
/** One that begins where another ends lies beside it. */
const TOUCH_S = 0.01

/** The beats of the mix that one time of a layer takes. */
export function oneTime({ sound }: Layer): number {
  return sound.of === 'track' ? sound.beats * sound.count : sound.beats
}

const snapped = (beats: number, unit: number) => (unit > 0 ? Math.round(beats / unit) * unit : beats)

/** A layer moved by so many seconds of the mix: on whole units of what it is tied to, free where there is no unit. */
export function movedBy(planned: PlannedLayer, clock: Clock, byS: number, unit: number): Layer {
  const { layer } = planned
  const by = clock.beatAt(planned.start_s + byS) - planned.start_beat
  return { ...layer, at: { ...layer.at, beat: snapped(layer.at.beat + by, unit) } }
}

/** A layer that lasts so many beats longer: one that is heard several times is heard more often. */
export function lengthenedBy(layer: Layer, beats: number, unit: number): Layer {
  const { sound } = layer
  const one = oneTime(layer)
  if (sound.of === 'track' && layer.times > 1) {
    const every = layer.apart ?? one
    const times = Math.round((every * (layer.times - 1) + one + beats) / every)
    return { ...layer, times: Math.min(Math.max(1, times), MOST_TIMES) }
  }
  const long = Math.max(unit || LEAST_BEATS, snapped(one + beats, unit))
  const per = sound.of === 'track' ? sound.count : 1
  return fitted({ ...layer, sound: { ...sound, beats: long / per } })
}

/** A layer whose fades and repeats fit into its length. */
export function fitted(layer: Layer): Layer {
  const one = oneTime(layer)
  const apart = layer.apart !== null && layer.apart < one ? null : layer.apart
  const run = apart === null ? one * layer.times : one
  const fade_in = Math.min(layer.fade_in, run)
  return { ...layer, apart, fade_in, fade_out: Math.min(layer.fade_out, run - fade_in) }
}

/** In which row each layer lies, so that none covers another, and how many rows there are. */
export function packed(layers: readonly PlannedLayer[]): { rows: Map<string, number>; count: number } {
  const ends: number[] = []
  const rows = new Map<string, number>()
  for (const { layer, start_s, end_s } of [...layers].sort((a, b) => a.start_s - b.start_s)) {
    const free = ends.findIndex((end) => end <= start_s + TOUCH_S)
    const row = free < 0 ? ends.length : free
    ends[row] = end_s
    rows.set(layer.id, row)
  }
  return { rows, count: ends.length }
}
