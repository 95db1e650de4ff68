import type { TrackGrid } from '../api/types'
import { barBeat, barsLong } from './format'
import { BeatGrid } from './grid'
import { sectionLabel } from './sections'

/** A span of a track that is worth laying somewhere, in beats of its grid. */
export interface TrackSpan {
  label: string
  start: number
  beats: number
}

const LONGEST = 1024

/** What a track offers: its saved loops, where somebody sings, its sections, and all of it where it is short. */
export function spansOf({
  grid,
  loops,
  voice,
  sections,
  sound_start_s,
  sound_end_s,
}: TrackGrid): TrackSpan[] {
  const bar = grid.beats_per_bar
  const beats = new BeatGrid(grid)
  const lines = beats.bars
  const found = (what: string, start: number, end: number): TrackSpan => ({
    label: `${what}: bar ${barBeat(start, lines)}, ${barsLong(end - start, bar)}`,
    start,
    beats: end - start,
  })
  const whole = (start: number, end: number) => [lines.down(start), lines.up(end)] as const
  const [first, last] = [beats.beatAt(sound_start_s), beats.beatAt(sound_end_s)]
  const all = last - first
  return [
    ...loops.map((l) => found(l.name ? `Loop ‘${l.name}’` : 'Loop', l.start, l.start + l.beats)),
    ...voice.map((v) => found('Voice', ...whole(v.start, v.end))),
    ...sections.map((s) => found(s.name || sectionLabel(s.kind), s.start, s.end)),
    ...(all <= LONGEST ? [{ label: `All of it: ${barsLong(Math.ceil(all), bar)}`, start: first, beats: Math.max(0.25, all) }] : []),
  ].filter((s) => s.beats <= LONGEST) // prettier-ignore
}

/** How many beats of a mix one of a track is best counted as at a tempo, and by what share it is bent then. */
export function countFor(own: number, bpm: number): { count: number; bend: number } {
  const ways = [1, 0.5, 2].map((count) => ({ count, bend: bpm / (own * count) - 1 }))
  return ways.reduce((best, way) => (Math.abs(way.bend) < Math.abs(best.bend) ? way : best))
}
