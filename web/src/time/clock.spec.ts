import { describe, expect, it } from 'vitest'
import type { ClockPoints, Curve, Entry } from '../api/types'
import fixture from './clock.fixture.json'
import { BarLines } from './barLines'
import { beatLinesOf } from './beatLines'
import { Clock } from './clock'
import { valueAt } from './curve'
import { cutoffOf, edgeOf, gainOf } from './laws'
import { barBeat } from './format'
import { EntryClock } from './entryClock'
import { BeatGrid } from './grid'
import { lastNotAfter } from './sorted'

/** The fixture is written by the core (tests/core/test_page_fixture.py), so that the page and the renderer agree. */
describe('the page counts beats and seconds as the core does', () => {
  const clock = new Clock(fixture.map as ClockPoints)
  const grid = new BeatGrid(fixture.grid, fixture.count)

  it.each(fixture.clock)('the mix is at beat $beat after $time s', ({ beat, time, bpm }) => {
    expect(clock.timeAt(beat)).toBeCloseTo(time, 8)
    expect(clock.beatAt(time)).toBeCloseTo(beat, 6)
    expect(clock.bpmAt(beat)).toBeCloseTo(bpm, 8)
  })

  it.each(fixture.beats)('beat $beat of the entry lies at $time s', ({ beat, time }) => {
    expect(grid.timeAt(beat)).toBeCloseTo(time, 8)
    expect(grid.beatAt(time)).toBeCloseTo(beat, 6)
  })
})

describe('the page counts bars as the core does, odd ones included', () => {
  const lines = BarLines.ofGrid(fixture.bars.grid)
  const doubled = BarLines.ofGrid(fixture.bars.grid, 2)

  it.each(fixture.bars.beats)('beat $beat lies in bar $bar', ({ beat, bars, bar, within, in_phrase }) => {
    expect(lines.at(beat)).toBeCloseTo(bars, 8)
    expect(lines.beatOf(bars)).toBeCloseTo(beat, 8)
    expect([lines.barOf(beat), lines.inPhrase(bar)]).toEqual([bar, in_phrase])
    expect(lines.within(beat)).toBeCloseTo(within, 8)
    expect(doubled.at(beat * 2)).toBeCloseTo(bars, 8)
  })

  it('draws them so, and says bar and beat', () => {
    const bars = [...beatLinesOf(lines, 26, 60, 9, 6)].filter((l) => l.kind !== 'beat').map((l) => l.beat)
    expect(bars).toEqual([28, 33, 36, 39, 42, 44, 48, 52, 54, 58])
    expect([...beatLinesOf(lines, 26, 60, 1, 6)].every((l) => l.kind === 'phrase')).toBe(true)
    expect(['0', '32', '33', '43'].map((b) => barBeat(Number(b), lines))).toEqual([
      '1.1',
      '8.5',
      '9.1',
      '12.2',
    ])
  })
})

describe('the page hears of an edited entry what the core does', () => {
  const { pieces, beats, places, spans } = fixture.arrangement
  const entry = { count: fixture.count, bar: 8, offset: 10, edited: { pieces } } as unknown as Entry
  const clock = EntryClock.of(entry, fixture.grid)

  it.each(beats)('beat $beat is beat $grid_beat of the grid, at $seconds s', (at) => {
    expect(clock.gridBeat(at.beat)).toBeCloseTo(at.grid_beat, 8)
    expect(clock.audioAt(at.beat)).toBeCloseTo(at.seconds, 8)
    expect(clock.entryBeat(clock.mixBeat(at.beat))).toBeCloseTo(at.beat, 8)
  })

  it.each(places)('beat $grid_beat of the grid is heard on $places', (at) => {
    expect(clock.placesOf(at.grid_beat)).toEqual(at.places)
  })

  it.each(spans)('from $start to $end of the grid is heard in $spans', (at) => {
    expect(clock.spansOf(at.start, at.end)).toEqual(at.spans)
  })

  it('lies where its offset has it, by the scale of what it is drawn on', () => {
    const scaled = EntryClock.of(entry, fixture.grid, 100, 0.5)
    expect([scaled.mixBeat(8), scaled.entryBeat(104)]).toEqual([104, 8])
    expect(scaled.at(20).mixBeat(8)).toBe(24)
  })
})

describe('the page draws curves and tells levels as the core renders them', () => {
  it.each(fixture.curves)('$points', ({ points, values }) => {
    for (const { place, value } of values)
      expect(valueAt(points as unknown as Curve, place), String(place)).toBeCloseTo(value, 6)
  })

  it.each(fixture.laws)('position $position', ({ position, fader, linear, hz, edge }) => {
    expect(gainOf(position)).toBeCloseTo(fader, 10)
    expect(gainOf(position, 'linear')).toBeCloseTo(linear, 10)
    expect(cutoffOf(position)).toBeCloseTo(hz, 6)
    expect(edgeOf(position)).toBeCloseTo(edge, 6)
  })
})

it('finds the last element that is not above a value', () => {
  expect([-1, 0, 2, 9].map((v) => lastNotAfter([0, 1, 2, 2, 5], v))).toEqual([-1, 0, 3, 4])
})
