import type { Grid } from '../api/types'
import { BarLines } from './barLines'
import { lastNotAfter } from './sorted'

/** A track's grid for drawing: beats and seconds, in stretches of one tempo and in ramps, as `core/track/grid.py` has it. */
export class BeatGrid {
  private readonly times: number[]
  private readonly beats: number[]
  /** Which beats of the entry begin a bar. */
  readonly bars: BarLines
  /** Beats of the entry in a bar; where bars differ, in that of beat 0. */
  readonly beatsPerBar: number

  constructor(
    private readonly grid: Grid,
    /** Beats of the entry for each beat of the grid. */
    private readonly count = 1,
  ) {
    this.times = grid.anchors.map((a) => a.time_s)
    this.beats = grid.anchors.map((a) => a.beat)
    this.bars = BarLines.ofGrid(grid, count)
    this.beatsPerBar = grid.beats_per_bar * count
  }

  /** Seconds of audio at a beat of the entry. */
  timeAt(entryBeat: number): number {
    const beat = entryBeat / this.count
    const i = lastNotAfter(this.beats, beat)
    const from = Math.max(i, 0)
    const { bpm, slope } = this.stretch(i)
    const past = beat - this.beats[from]!
    return this.times[from]! + (slope ? (60 / slope) * Math.log1p((slope * past) / bpm) : past * (60 / bpm))
  }

  /** The beat of the entry at a moment of its audio. */
  beatAt(time: number): number {
    const i = lastNotAfter(this.times, time)
    const from = Math.max(i, 0)
    const { bpm, slope } = this.stretch(i)
    const past = time - this.times[from]!
    const beats = slope ? (bpm / slope) * Math.expm1((slope * past) / 60) : past * (bpm / 60)
    return (this.beats[from]! + beats) * this.count
  }

  /** The tempo at a beat of the entry, in its beats a minute. */
  bpmAt(entryBeat: number): number {
    const beat = entryBeat / this.count
    const i = lastNotAfter(this.beats, beat)
    const { bpm, slope } = this.stretch(i)
    return (bpm + slope * (beat - this.beats[Math.max(i, 0)]!)) * this.count
  }

  /** Where the tempo changes, as pairs of beat and BPM: linear between them, level outside, two on one beat where it steps. */
  get course(): [number, number][] {
    return this.beats.flatMap((beat, i): [number, number][] => {
      const before = this.stretch(i - 1)
      const ends = before.bpm + before.slope * (beat - (this.beats[Math.max(i - 1, 0)] ?? beat))
      return [
        [beat * this.count, ends * this.count],
        [beat * this.count, this.stretch(i).bpm * this.count],
      ]
    })
  }

  /** Where something else begins: the tempo steps by more than a share, or a ramp begins or ends; the beat, and the tempo there. */
  breaks(least: number): [number, number][] {
    const isRamp = (i: number) => this.stretch(i).slope !== 0
    return this.course.flatMap(([beat, after], n, course): [number, number][] => {
      const [i, isAfter] = [n >> 1, n % 2 === 1]
      const steps = isAfter && Math.abs(after / course[n - 1]![1] - 1) > least
      return steps || (isAfter && isRamp(i) !== isRamp(i - 1)) ? [[beat, after]] : []
    })
  }

  /** The tempo at the start of the stretch that begins with anchor `i`, and how many BPM it gains with each beat; -1 lies before the first. */
  private stretch(i: number): { bpm: number; slope: number } {
    if (i < 0) return { bpm: this.grid.bpm_before, slope: 0 }
    if (i >= this.times.length - 1) return { bpm: this.grid.bpm_after, slope: 0 }
    const beats = this.beats[i + 1]! - this.beats[i]!
    const mean = (60 * beats) / (this.times[i + 1]! - this.times[i]!)
    const ramp = this.grid.anchors[i]!.ramp
    if (ramp === 1) return { bpm: mean, slope: 0 }
    const bpm = (mean * Math.log(ramp)) / (ramp - 1)
    return { bpm, slope: (bpm * (ramp - 1)) / beats }
  }
}
