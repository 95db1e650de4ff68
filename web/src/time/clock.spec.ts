import { describe, expect, it } from 'vitest'
import type { ClockPoints } from '../api/types'
import fixture from './clock.fixture.json'
import { Clock } from './clock'
import { BeatGrid, lastNotAfter } from './grid'

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

it('finds the last element that is not above a value', () => {
  expect([-1, 0, 2, 9].map((v) => lastNotAfter([0, 1, 2, 2, 5], v))).toEqual([-1, 0, 3, 4])
})
