import type { Edited, Entry, Grid } from '../api/types'
import { BarLines } from './barLines'
import { BeatGrid } from './grid'

/** A span of an entry, in its beats, in which its track is read forwards: beat 0 of the grid would lie on `shift`. */
export interface Piece {
  start: number
  end: number
  shift: number
}

const WHOLE: Piece[] = [{ start: -Infinity, end: Infinity, shift: 0 }]
const CLOSE = 1e-6

/** The pieces of an entry; one, without an end, where it is heard as recorded. */
export function piecesOf(edited: Edited | null | undefined): Piece[] {
  if (!edited?.pieces.length) return WHOLE
  return edited.pieces.map(({ start, end, shift }) => ({
    start: start ?? -Infinity,
    end: end ?? Infinity,
    shift,
  }))
}

/** The beat of the mix, as its entry's clock counts, on which a beat of the entry lies. */
export const mixBeatOf = (entry: Pick<Entry, 'offset'>, entryBeat: number) => entryBeat + entry.offset

/** The beat of an entry that lies on a beat of the mix. */
export const entryBeatOf = (entry: Pick<Entry, 'offset'>, mixBeat: number) => mixBeat - entry.offset

/**
 * The one place where the beats of an entry, as played, meet those of the mix, those of its track's grid and the moments
 * of its audio, as `core/mix/entries/arrangement.py` has it. Without a grid yet only beats can be told.
 */
export class EntryClock {
  /** Beats in a bar as a rule, and which begin one. */
  readonly bar: number
  readonly bars: BarLines
  readonly pieces: Piece[]

  constructor(
    readonly entry: Entry,
    private readonly beats: BeatGrid | undefined,
    /** The mix beat of the entry's beat 0. */
    readonly offset = entry.offset,
    /** Beats of what it is drawn on for each of its own: 1 but where it goes by another clock. */
    readonly scale = 1,
  ) {
    this.bar = entry.bar
    this.bars = BarLines.ofEntry(entry)
    this.pieces = piecesOf(entry.edited)
  }

  static of(entry: Entry, grid: Grid | undefined, offset = entry.offset, scale = 1): EntryClock {
    return new EntryClock(entry, grid && new BeatGrid(grid, entry.count), offset, scale)
  }

  /** The same entry lying elsewhere in the mix, while it is dragged. */
  at(offset: number): EntryClock {
    return new EntryClock(this.entry, this.beats, offset, this.scale)
  }

  /** The grid in beats as recorded, once it is here. */
  get grid(): BeatGrid | undefined {
    return this.beats
  }

  mixBeat(entryBeat: number): number {
    return entryBeat * this.scale + this.offset
  }

  entryBeat(mixBeat: number): number {
    return (mixBeat - this.offset) / this.scale
  }

  /** All beats of the entry on which a beat of the grid is heard; none where it is left out. */
  placesOf(gridBeat: number): number[] {
    const at = gridBeat * this.entry.count
    return this.pieces
      .map((p) => ({ p, beat: at + p.shift }))
      .filter(({ p, beat }) => p.start - CLOSE <= beat && beat < p.end - CLOSE)
      .map(({ beat }) => beat)
  }

  /** The spans of the entry in which a span of the grid is heard, in order; neighbours are joined. */
  spansOf(start: number, end: number): { start: number; end: number }[] {
    const { count } = this.entry
    const found: { start: number; end: number }[] = []
    for (const p of this.pieces) {
      const span = {
        start: Math.max(start * count + p.shift, p.start),
        end: Math.min(end * count + p.shift, p.end),
      }
      if (span.end - span.start < CLOSE) continue
      const last = found[found.length - 1]
      if (last && Math.abs(last.end - span.start) < CLOSE) last.end = span.end
      else found.push(span)
    }
    return found
  }

  /** The beat of the grid that is heard on a beat of the entry. */
  gridBeat(entryBeat: number): number {
    return (entryBeat - this.pieceAt(entryBeat).shift) / this.entry.count
  }

  /** Seconds of the entry's audio at one of its beats; undefined before its grid is here. */
  audioAt(entryBeat: number): number | undefined {
    return this.beats?.timeAt(entryBeat - this.pieceAt(entryBeat).shift)
  }

  /** The track's own tempo on a beat of the entry, in its beats: where it is made steady, its mean. */
  ownBpm(entryBeat: number): number {
    if (this.entry.goes_by !== 'own' || !this.beats) return this.entry.own_bpm
    return this.beats.bpmAt(entryBeat - this.pieceAt(entryBeat).shift)
  }

  /** The tempo of the mix on a beat of the entry where it leads. */
  leadsAt(entryBeat: number): number {
    return (this.ownBpm(entryBeat) * this.entry.home_bpm) / this.entry.own_bpm
  }

  private pieceAt(entryBeat: number): Piece {
    return this.pieces.find((p) => entryBeat < p.end - CLOSE) ?? this.pieces[this.pieces.length - 1]!
  }
}
