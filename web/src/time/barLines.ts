import type { BarLinesOut, Entry, Grid } from '../api/types'
import { lastNotAfter } from './sorted'

export const PHRASE_BARS = 8
const ON_LINE = 1e-6

/** From which beat on bars have how many beats. */
type Run = readonly [beat: number, beats: number]

/**
 * Which beats begin a bar, as `core/track/bar_lines.py` has it: bars as a function of beats, linear between knots. Whole
 * numbers are bar lines.
 */
export class BarLines {
  private constructor(private readonly lines: BarLinesOut) {}

  /** Bars of one length, the first of them at beat 0. */
  static every(beats: number): BarLines {
    return new BarLines({ knots: [0], numbers: [0], before: beats, after: beats, phrases: [0] })
  }

  /** The bars of a grid, `count` beats for each of its own. */
  static ofGrid(grid: Grid, count = 1): BarLines {
    const runs: Run[] = [
      ...(grid.bars_from ?? []).map((b): Run => [b.beat, b.beats]),
      [0, grid.beats_per_bar],
    ]
    runs.sort((a, b) => a[0] - b[0])
    return new BarLines(numbered(runs, grid.beats_per_bar)).times(count)
  }

  /** The bars of an entry, in its beats. */
  static ofEntry(entry: Pick<Entry, 'bar' | 'bars'>): BarLines {
    return entry.bars ? new BarLines(entry.bars) : BarLines.every(entry.bar)
  }

  private times(count: number): BarLines {
    const { knots, numbers, before, after, phrases } = this.lines
    return new BarLines({
      knots: knots.map((k) => k * count),
      numbers,
      before: before * count,
      after: after * count,
      phrases,
    })
  }

  /** A beat in bars, parts of them included. */
  at(beat: number): number {
    const { knots, numbers } = this.lines
    const i = lastNotAfter(knots, beat)
    const from = Math.max(i, 0)
    return numbers[from]! + (beat - knots[from]!) / this.lengthOfRun(i)
  }

  /** The beat of a bar, or of a part of one. */
  beatOf(bar: number): number {
    const { knots, numbers } = this.lines
    const i = lastNotAfter(numbers, bar)
    const from = Math.max(i, 0)
    return knots[from]! + (bar - numbers[from]!) * this.lengthOfRun(i)
  }

  /** The bar that a beat lies in, on a line the one that begins there. */
  barOf(beat: number): number {
    return Math.floor(this.at(beat) + ON_LINE)
  }

  /** How many beats after the start of its bar a beat lies. */
  within(beat: number): number {
    return beat - this.beatOf(this.barOf(beat))
  }

  isLine(beat: number): boolean {
    const bar = this.at(beat)
    return Math.abs(bar - Math.round(bar)) < ON_LINE
  }

  /** The bar line at or before a beat, at or after it, and the one nearest to it. */
  down(beat: number): number {
    return this.beatOf(this.barOf(beat))
  }
  up(beat: number): number {
    return this.beatOf(Math.ceil(this.at(beat) - ON_LINE))
  }
  nearest(beat: number): number {
    return this.beatOf(Math.round(this.at(beat)))
  }

  /** How many beats a bar has. */
  lengthOf(bar: number): number {
    return this.beatOf(bar + 1) - this.beatOf(bar)
  }

  /** How many bars after the start of its phrase a bar lies. */
  inPhrase(bar: number): number {
    const { phrases } = this.lines
    const begin = phrases[Math.max(lastNotAfter(phrases, bar + ON_LINE), 0)]!
    return (((bar - begin) % PHRASE_BARS) + PHRASE_BARS) % PHRASE_BARS
  }

  /** The phrase that a bar lies in, counted from 1 with bar 0. */
  phraseOf(bar: number): number {
    const { phrases } = this.lines
    const whole = (from: number, to: number) => Math.ceil((to - from) / PHRASE_BARS - ON_LINE)
    const before = phrases.filter((p) => p >= 0 && p <= bar)
    const earlier = before.slice(1).reduce((sum, p, i) => sum + whole(before[i]!, p), 0)
    return earlier + Math.floor((bar - (before[before.length - 1] ?? 0)) / PHRASE_BARS) + 1
  }

  /** The bars, begun between two beats, that are of another length than those before and after them. */
  odd(first: number, last: number): { beat: number; beats: number }[] {
    const found = []
    for (let bar = this.barOf(first); bar <= this.barOf(last); bar++) {
      const [before, beats, after] = [bar - 1, bar, bar + 1].map((b) => this.lengthOf(b))
      if (beats !== before && beats !== after) found.push({ beat: this.beatOf(bar), beats: beats! })
    }
    return found
  }

  /** The most beats that a bar has. */
  get longest(): number {
    const { knots, before, after } = this.lines
    return Math.max(before, after, ...knots.map((_, i) => this.lengthOfRun(i)))
  }

  /** How many beats a bar has from knot `i` on; -1 lies before the first. */
  private lengthOfRun(i: number): number {
    const { knots, numbers, before, after } = this.lines
    if (i < 0) return before
    if (i >= knots.length - 1) return after
    return (knots[i + 1]! - knots[i]!) / (numbers[i + 1]! - numbers[i]!)
  }
}

/** Runs of bars with their numbers; a rest shorter than half a bar makes the one before it longer, else it is one itself. */
function numbered(runs: readonly Run[], before: number): BarLinesOut {
  const knots = [runs[0]![0]]
  const numbers = [0]
  const begins = [0]
  const last = () => numbers[numbers.length - 1]!
  for (let i = 0; i + 1 < runs.length; i++) {
    const [[start, length], [end, following]] = [runs[i]!, runs[i + 1]!]
    const bars = Math.floor((end - start + ON_LINE) / length)
    const rest = end - start - bars * length
    const isFull = rest < ON_LINE
    const whole = bars && !isFull && rest < length / 2 ? bars - 1 : bars
    if (whole && !isFull) {
      knots.push(start + whole * length)
      numbers.push(last() + whole)
    }
    knots.push(end)
    numbers.push(last() + (isFull ? whole : 1))
    if (!isFull || following !== length) begins.push(last())
  }
  const after = runs[runs.length - 1]![1]
  // A run of a grid begins at beat 0: that is bar 0.
  const zero = numbers[knots.indexOf(0)]!
  return {
    knots,
    numbers: numbers.map((n) => n - zero),
    before,
    after,
    phrases: phrasesFrom(begins.map((b) => b - zero)),
  }
}

/** The bars with which phrases start again: bar 0, and those that do so elsewhere than halfway through a phrase. */
function phrasesFrom(begins: readonly number[]): number[] {
  const phrases = [Math.min(0, begins[0]!)]
  for (const bar of [...new Set([...begins, 0])].sort((a, b) => a - b)) {
    const since = bar - phrases[phrases.length - 1]!
    if (since > 0 && (bar === 0 || since % (PHRASE_BARS / 2))) phrases.push(bar)
  }
  return phrases
}
