import type { Entry, Grid } from '../api/types'
import { BeatGrid } from './grid'

/**
 * The one place where the beats of an entry, as played, meet those of the mix and the moments of its audio, as
 * `core/mix/played.py` has it. Without a grid yet only beats can be told.
 */
export class EntryClock {
  readonly bar: number

  constructor(
    readonly entry: Entry,
    private readonly beats: BeatGrid | undefined,
    /** The mix beat of the entry's beat 0. */
    readonly offset = entry.offset,
    /** Beats of what it is drawn on for each of its own: 1 but where it goes by another clock. */
    readonly scale = 1,
  ) {
    this.bar = entry.bar
  }

  static of(entry: Entry, grid: Grid | undefined, offset = entry.offset, scale = 1): EntryClock {
    return new EntryClock(entry, grid && new BeatGrid(grid, entry.count), offset, scale)
  }

  /** The same entry lying elsewhere in the mix, while it is dragged. */
  at(offset: number): EntryClock {
    return new EntryClock(this.entry, this.beats, offset, this.scale)
  }

  /** The grid in beats as played, once it is here. */
  get grid(): BeatGrid | undefined {
    return this.beats
  }

  mixBeat(entryBeat: number): number {
    return entryBeat * this.scale + this.offset
  }

  entryBeat(mixBeat: number): number {
    return (mixBeat - this.offset) / this.scale
  }

  /** Seconds of the entry's audio at one of its beats; undefined before its grid is here. */
  audioAt(entryBeat: number): number | undefined {
    return this.beats?.timeAt(entryBeat)
  }
}
