import type { Entry } from '../api/types'
import { bucketFor, peaksOf } from '../pictures/trackPictures'
import { hueOf } from '../theme/hues'
import type { Clock } from '../time/clock'
import { entryBeatOf, type EntryClock } from '../time/entryClock'
import { drawWave } from './waveTiles'

const MEANWHILE = 4096

/** What is in view: so many pixels for a beat of the mix, from a beat on. */
export interface BeatsInView {
  from: number
  perBeat: number
}

/** An entry as it is drawn on the beats of the mix: where its beat 0 lies, and how many of these one of its own is. */
export interface LaidEntry {
  entry: Entry
  clock: EntryClock
  zero: number
  scale: number
  /** Between which beats of the mix it is heard without a neighbour. */
  alone: [number, number]
}

/** Where an entry lies on the clock of the mix; one with a clock of its own is laid along it from its start to its end. */
export function laidOn(
  mix: Clock,
  own: Clock,
  entry: Entry,
  clock: EntryClock,
  alone: { start_s: number; end_s: number },
): LaidEntry {
  const [start, end] = [mix.beatAt(entry.start_s), mix.beatAt(entry.end_s)]
  const [first, last] = [own.beatAt(entry.start_s), own.beatAt(entry.end_s)].map((b) => entryBeatOf(entry, b))
  const scale = last! > first! ? (end - start) / (last! - first!) : 1
  return {
    entry,
    clock,
    zero: start - first! * scale,
    scale,
    alone: [mix.beatAt(alone.start_s), mix.beatAt(alone.end_s)],
  }
}

/**
 * Entries about the line where they meet. By itself an entry stands on it and hangs from it; where two overlap the one
 * stands and the other hangs. Each is drawn through its own grid.
 */
export function drawEntryWaves(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  ratio: number,
  view: BeatsInView,
  entries: readonly LaidEntry[],
) {
  const half = height / 2
  for (const { entry, clock, zero, scale, alone } of entries) {
    const perBeat = view.perBeat * scale
    const x = (beat: number) => (zero + beat * scale - view.from) * view.perBeat
    const peaks =
      peaksOf(entry.track_id, bucketFor(60 / entry.own_bpm / perBeat)) ?? peaksOf(entry.track_id, MEANWHILE)
    if (!peaks || !clock.grid) continue
    const hangsIn = entry.index % 2 === 1
    for (const hangs of [false, true]) {
      const spec = { trackId: entry.track_id, peaks, grid: clock.grid, gridKey: `${entry.count}/${entry.track_version}`, hue: hueOf(entry.index), gain: 10 ** (entry.gain_db / 20), hangs } // prettier-ignore
      const [from, to] = hangs === hangsIn ? [-Infinity, Infinity] : alone
      for (const piece of clock.pieces) {
        const left = Math.max(0, x(piece.start), (from - view.from) * view.perBeat)
        const right = Math.min(width, x(piece.end), (to - view.from) * view.perBeat)
        if (right <= left) continue
        context.save()
        context.beginPath()
        context.rect(left, 0, right - left, height)
        context.clip()
        drawWave(context, spec, x(piece.shift), perBeat, width, hangs ? half : 0, half, ratio)
        context.restore()
      }
    }
  }
}
