import type { Kind, PlannedTransition, Side } from '../api/types'
import type { TransitionSide } from '../time/transitionSide'
import { bucketFor, peaksOf } from '../pictures/trackPictures'
import { hueOf } from '../theme/hues'
import type { Clock } from '../time/clock'
import type { SeamSide, Span } from './seam'

/** Peaks of this resolution are drawn while finer ones are fetched: a long track has few bytes of them. */
const MEANWHILE = 4096

/** One side of a transition as the seam draws it, so many pixels for a beat, over the span of its curves. */
export function seamSideOf(
  { entry, clock }: TransitionSide,
  side: Side,
  perBeat: number,
  shown: Pick<SeamSide, 'volume' | 'law' | 'span' | 'leftOut'>,
  offset = clock.offset,
): SeamSide {
  const beatX = (beat: number) => offset + beat * clock.scale
  const pixels = perBeat * clock.scale
  const peaks =
    peaksOf(entry.track_id, bucketFor(60 / entry.own_bpm / pixels)) ?? peaksOf(entry.track_id, MEANWHILE)
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
    pieces: clock.pieces.map((p) => ({ start: beatX(p.start), end: beatX(p.end), zero: beatX(p.shift) })),
    silent: (entry.edited?.dropped ?? [])
      .filter((g) => !g.stems.length)
      .map((g) => ({ start: beatX(g.start), end: beatX(g.end) })),
    offset,
    scale: clock.scale,
    bars: clock.bars,
    ...shown,
  }
}

/** Where the curves of a side run while its transition lies from one beat to another, a cut with its lead. */
export function spanOf(kind: Kind, side: Side, start: number, end: number, lead: number): Span {
  if (side === 'outgoing') return { start: start - lead, end: kind === 'apart' ? start : end }
  return { start: kind === 'apart' ? end : start, end }
}

/** What a side leaves out, by a clock. */
export function leftOutOf(planned: PlannedTransition, side: Side, axis: Clock): Span | undefined {
  const { gap_start_s: start, gap_end_s: end } =
    (side === 'outgoing' ? planned.out_span : planned.in_span) ?? {}
  return start == null || end == null ? undefined : { start: axis.beatAt(start), end: axis.beatAt(end) }
}
