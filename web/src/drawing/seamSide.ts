import type { Curve, Side } from '../api/types'
import type { TransitionSide } from '../composables/useSides'
import { bucketFor, peaksOf } from '../composables/useTrackPictures'
import { hueOf } from '../theme/hues'
import type { SeamSide } from './seam'

/** Peaks of this resolution are drawn while finer ones are fetched: a long track has few bytes of them. */
const MEANWHILE = 4096

/** One side of a transition as the seam draws it, so many pixels for a beat; ‘offset’ is where its beat 0 lies. */
export function seamSideOf(
  { entry, clock }: TransitionSide,
  side: Side,
  perBeat: number,
  volume: Curve,
  offset = clock.offset,
): SeamSide {
  const peaks =
    peaksOf(entry.track_id, bucketFor(60 / entry.own_bpm / perBeat)) ?? peaksOf(entry.track_id, MEANWHILE)
  return {
    wave: peaks &&
      clock.grid && {
        trackId: entry.track_id,
        peaks,
        grid: clock.grid,
        gridKey: `${entry.count}/${entry.track_version}`,
        hue: hueOf(entry.index),
        gain: 10 ** (entry.gain_db / 20),
        hangs: side === 'incoming',
      },
    offset,
    volume,
    beatsPerBar: clock.bar,
  }
}
