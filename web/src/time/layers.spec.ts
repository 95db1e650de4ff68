import { describe, expect, it } from 'vitest'
import type { Layer, PlannedLayer, TrackGrid } from '../api/types'
import { Clock } from './clock'
import { fitted, lengthenedBy, movedBy, packed } from './layers'
import { countFor, spansOf } from './trackSpans'

const clock = new Clock({ origin_beat: 0, tempo: [[0, 120]] })
const plain = { id: 'l', times: 1, apart: null, fade_in: 0, fade_out: 0, at: { to: 'mix', beat: 64 } }
const layerOf = (more: object = {}) =>
  ({
    ...plain,
    sound: { of: 'track', track_id: 't', start: 0, beats: 8, count: 1 },
    ...more,
  }) as unknown as Layer
const placed = (id: string, start_s: number, end_s: number) =>
  ({ layer: layerOf({ id }), start_s, end_s, start_beat: start_s * 2, end_beat: end_s * 2 }) as PlannedLayer

describe('a layer under the hand', () => {
  it('is moved on whole units of what it is tied to, or freely', () => {
    expect(movedBy(placed('l', 32, 36), clock, 2.3, 4).at.beat).toBe(68)
    expect(movedBy(placed('l', 32, 36), clock, 2.3, 0).at.beat).toBeCloseTo(68.6)
  })

  it('is made longer by beats, or heard more often where it is heard several times', () => {
    expect(lengthenedBy(layerOf(), 4.2, 1).sound.beats).toBe(12)
    const double = layerOf({ sound: { of: 'track', beats: 8, count: 2 } })
    expect(lengthenedBy(double, 8, 4).sound.beats).toBe(12)
    expect(lengthenedBy(layerOf({ times: 2 }), 17, 4)).toMatchObject({ times: 4, sound: { beats: 8 } })
    expect(lengthenedBy(layerOf({ times: 3 }), -100, 4).times).toBe(1)
    expect(lengthenedBy(layerOf(), -100, 0).sound.beats).toBe(0.25)
  })

  it('keeps fades and repeats that fit', () => {
    expect(fitted(layerOf({ fade_in: 6, fade_out: 6 }))).toMatchObject({ fade_in: 6, fade_out: 2 })
    expect(fitted(layerOf({ times: 2, apart: 4 })).apart).toBe(null)
    expect(fitted(layerOf({ times: 2, fade_in: 12 })).fade_in).toBe(12)
  })

  it('never covers another: each lies in the first row that is free', () => {
    const { rows, count } = packed([placed('c', 8, 12), placed('a', 0, 10), placed('b', 10.5, 14)])
    expect(count).toBe(2)
    expect([rows.get('a'), rows.get('b'), rows.get('c')]).toEqual([0, 0, 1])
  })
})

describe('what a track offers', () => {
  const grid = {
    beats_per_bar: 4,
    bars_from: [],
    bpm_before: 120,
    bpm_after: 120,
    anchors: [{ time_s: 0, beat: 0, ramp: 1 }],
  }
  const track = {
    grid,
    loops: [{ id: 'x', start: 32, beats: 8, kind: 'plain', name: 'congas' }],
    voice: [{ start: 65.5, end: 70 }],
    sections: [{ kind: 'full', start: 64, end: 192, name: '' }],
    sound_start_s: 0,
    sound_end_s: 120,
  } as unknown as TrackGrid

  it('are its loops, its voice in whole bars, its sections, and all of it', () => {
    expect(spansOf(track).map((s) => [s.label, s.start, s.beats])).toEqual([
      ['Loop ‘congas’: bar 9.1, 2 bars', 32, 8],
      ['Voice: bar 17.1, 2 bars', 64, 8],
      ['Full: bar 17.1, 32 bars', 64, 128],
      ['All of it: 60 bars', 0, 240],
    ])
  })

  it('is counted so that it is bent least', () => {
    expect(countFor(87, 174)).toEqual({ count: 2, bend: 0 })
    expect(countFor(120, 124.8).count).toBe(1)
    expect(countFor(120, 124.8).bend).toBeCloseTo(0.04)
  })
})
