import type { Grid } from '../api/types'

/** A track's grid for drawing: beats and seconds, piecewise linear, as `core/track/grid.py` has it. */
export class BeatGrid {
  private readonly times: number[]
  private readonly beats: number[]
  /** Beats of the entry in a bar. */
  readonly beatsPerBar: number

  constructor(
    private readonly grid: Grid,
    /** Beats of the entry for each beat of the grid. */
    private readonly count = 1,
  ) {
    this.times = grid.anchors.map((a) => a.time_s)
    this.beats = grid.anchors.map((a) => a.beat)
    this.beatsPerBar = grid.beats_per_bar * count
  }

  /** Seconds of audio at a beat of the entry. */
  timeAt(entryBeat: number): number {
    const beat = entryBeat / this.count
    const i = lastNotAfter(this.beats, beat)
    const from = Math.max(i, 0)
    return this.times[from]! + (beat - this.beats[from]!) * (60 / this.bpmAfter(i))
  }

  /** The beat of the entry at a moment of its audio. */
  beatAt(time: number): number {
    const i = lastNotAfter(this.times, time)
    const from = Math.max(i, 0)
    return (this.beats[from]! + (time - this.times[from]!) * (this.bpmAfter(i) / 60)) * this.count
  }

  /** Tempo of the stretch that begins with anchor `i`; -1 lies before the first. */
  private bpmAfter(i: number): number {
    if (i < 0) return this.grid.bpm_before
    if (i >= this.times.length - 1) return this.grid.bpm_after
    return (60 * (this.beats[i + 1]! - this.beats[i]!)) / (this.times[i + 1]! - this.times[i]!)
  }
}

/** Index of the last element that is not above `value`, or -1; `sorted` rises. */
export function lastNotAfter(sorted: readonly number[], value: number): number {
  let low = 0
  let high = sorted.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (sorted[middle]! <= value) low = middle + 1
    else high = middle
  }
  return low - 1
}
