import type { BarLines } from './barLines'

/** A line of a grid: on a beat, with which a bar or a phrase may begin. */
export interface BeatLine {
  beat: number
  kind: 'beat' | 'bar' | 'phrase'
}

/** The lines from one beat to another, as many as have room: all beats, bars alone, or phrases alone. */
export function* beatLinesOf(
  bars: BarLines,
  first: number,
  last: number,
  pixelsPerBeat: number,
  closest: number,
): Generator<BeatLine> {
  if (pixelsPerBeat >= closest) {
    for (let beat = Math.ceil(first); beat <= last; beat++) yield { beat, kind: kindOf(bars, beat) }
    return
  }
  const perBar = pixelsPerBeat * bars.longest
  const end = bars.at(last)
  for (let bar = Math.ceil(bars.at(first)); bar <= end; bar++) {
    if (bars.inPhrase(bar) === 0) yield { beat: bars.beatOf(bar), kind: 'phrase' }
    else if (perBar >= closest) yield { beat: bars.beatOf(bar), kind: 'bar' }
  }
}

function kindOf(bars: BarLines, beat: number): BeatLine['kind'] {
  if (!bars.isLine(beat)) return 'beat'
  return bars.inPhrase(bars.barOf(beat)) === 0 ? 'phrase' : 'bar'
}

/** A number above a bar line. */
export interface BarNumber {
  beat: number
  bar: number
}

/** Bars from one beat to another that are numbered: as many as have room, every one, second, fourth and so on. */
export function barNumbersOf(
  bars: BarLines,
  first: number,
  last: number,
  pixelsPerBeat: number,
  room: number,
): BarNumber[] {
  const [from, to] = [bars.at(first), bars.at(last)]
  let every = 1
  while ((pixelsPerBeat * (last - first) * every) / (to - from) < room) every *= 2
  const found = []
  for (let bar = Math.ceil(from / every) * every; bar <= to; bar += every)
    found.push({ beat: bars.beatOf(bar), bar: bar + 1 })
  return found
}
