import { describe, expect, it } from 'vitest'
import { BarLines } from './barLines'
import type { Section, VoiceSpan } from '../api/types'
import { BeatGrid } from './grid'
import { extent, joined, splitSection, splitSpan, withBorder, withEdge, withMoved, withSpan } from './spans'

const SECTIONS: Section[] = [
  { kind: 'beat', start: 0, end: 32, name: '' },
  { kind: 'full', start: 32, end: 64, name: 'door' },
  { kind: 'break', start: 64, end: 68, name: '' },
]
const FOURS = BarLines.every(4)
const SPANS: VoiceSpan[] = [
  { start: 8, end: 16 },
  { start: 20, end: 24 },
]

describe('a span over a whole track', () => {
  it('lies where it sounds, and not beyond the ends of the file', () => {
    const beats = new BeatGrid({
      anchors: [{ time_s: 1, beat: 0, ramp: 1 }],
      bpm_before: 60,
      bpm_after: 60,
      beats_per_bar: 4,
      bars_from: [],
    })
    expect(extent({ start: 9, end: 29 }, beats, 40)).toEqual({ left: 0.25, width: 0.5 })
    expect(extent({ start: -8, end: 99 }, beats, 40)).toEqual({ left: 0, width: 1 })
  })
})

describe('sections', () => {
  it('keep touching each other, in whole bars, however far a border is dragged', () => {
    for (const beat of [-100, 9.4, 33, 500]) {
      const moved = withBorder(SECTIONS, 1, beat, FOURS)
      expect(moved[0]!.end).toBe(moved[1]!.start)
      expect(moved[1]!.start % 4).toBe(0)
      expect(moved.every((s) => s.end - s.start >= 4)).toBe(true)
    }
  })

  it('are split at the bar nearest to the cursor, else in the middle, and joined again', () => {
    expect(splitSection(SECTIONS, 1, 41.2, FOURS).map((s) => s.start)).toEqual([0, 32, 40, 64])
    expect(splitSection(SECTIONS, 1, 2, FOURS).map((s) => s.start)).toEqual([0, 32, 48, 64])
    expect(splitSection(SECTIONS, 2, 66, FOURS)).toBe(SECTIONS)
    expect(joined(splitSection(SECTIONS, 1, 41.2, FOURS), 1)).toEqual(SECTIONS)
  })
})

describe('voice spans', () => {
  it('never meet by dragging an edge or the whole', () => {
    expect(withEdge(SPANS, 0, 'end', 90)[0]).toEqual({ start: 8, end: 20 })
    expect(withEdge(SPANS, 0, 'end', 3)[0]).toEqual({ start: 8, end: 9 })
    expect(withEdge(SPANS, 1, 'start', 2)[1]).toEqual({ start: 16, end: 24 })
    expect(withMoved(SPANS, 1, -50)[1]).toEqual({ start: 16, end: 20 })
    expect(withMoved(SPANS, 1, 7)[1]).toEqual({ start: 27, end: 31 })
  })

  it('are drawn in either direction, and those that are met become one', () => {
    expect(withSpan(SPANS, 40, 32)).toEqual([...SPANS, { start: 32, end: 40 }])
    expect(withSpan(SPANS, 14, 21)).toEqual([{ start: 8, end: 24 }])
    expect(withSpan([], 5, 5)).toEqual([{ start: 5, end: 6 }])
  })

  it('are split with a beat between, when they are long enough', () => {
    expect(splitSpan(SPANS, 0, 12).slice(0, 2)).toEqual([
      { start: 8, end: 11.5 },
      { start: 12.5, end: 16 },
    ])
    expect(splitSpan([{ start: 0, end: 2 }], 0, 1)).toHaveLength(1)
  })
})
