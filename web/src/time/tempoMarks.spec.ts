import { describe, expect, it } from 'vitest'
import type { TempoMark } from '../api/types'
import { laidMarks, withMark, type TempoPlan } from './tempoMarks'

/** 120 up to beat 100, a ramp to 130 up to beat 132, then 130 to the end at beat 300. */
const plan: TempoPlan = {
  entries: [
    { id: 'a', clock: 0, offset: 0, end_s: 63.36 },
    { id: 'b', clock: 0, offset: 100, end_s: 50 + 15.37 + (168 * 60) / 130 },
  ],
  transitions: [{ start_beat: 100, end_beat: 132 }],
  clocks: [
    {
      origin_beat: 0,
      tempo: [
        [0, 120],
        [100, 120],
        [132, 130],
      ],
    },
  ],
}
const mark = (entry_id: string, beat: number, bpm: number): TempoMark => ({
  entry_id,
  beat,
  bpm,
  onward: 'straight',
})
const brief = (marks: ReturnType<typeof withMark>) =>
  marks.map((m) => [m.mark.entry_id, Math.round(m.mark.beat), Math.round(m.mark.bpm)])

describe('tempi set by hand', () => {
  it('lie where their entries have them, in order; those of entries that are gone are left out', () => {
    const laid = laidMarks([mark('b', 4, 128), mark('a', 20, 122), mark('gone', 1, 99)], plan)
    expect(laid.map((m) => m.beat)).toEqual([20, 104])
  })

  it('pull the line between the turns of the tempo around them', () => {
    expect(brief(withMark([], 60, 125, plan))).toEqual([
      ['a', 0, 120],
      ['a', 60, 125],
      ['a', 100, 120],
    ])
    expect(brief(withMark([], 200, 135, plan))).toEqual([
      ['b', 32, 130],
      ['b', 100, 135],
      ['b', 200, 130],
    ])
  })

  it('are held at the nearest turns only, of a step by the side that is turned to them', () => {
    const stepped: TempoPlan = {
      ...plan,
      clocks: [{ origin_beat: -8, tempo: [[-8, 120], [40, 120], [40, 124], [80, 124], [80, 110]] }], // prettier-ignore
    }
    expect(brief(withMark([], 60, 125, stepped))).toEqual([
      ['a', 40, 124],
      ['a', 60, 125],
      ['a', 80, 124],
    ])
    expect(brief(withMark([], 20, 125, stepped))).toEqual([
      ['a', -8, 120],
      ['a', 20, 125],
      ['a', 40, 120],
    ])
    const [, after, end] = withMark([], 90, 112, stepped)
    expect([after!.mark.bpm, end!.mark.bpm]).toEqual([112, 110])
  })

  it('are of the entry that leads there', () => {
    expect(brief(withMark([], 115, 122, plan))[1]).toEqual(['a', 115, 122])
    expect(brief(withMark([], 117, 122, plan))[1]).toEqual(['b', 17, 122])
  })

  it('need no more holding between others, and take the place of one on their beat', () => {
    const some = withMark([], 60, 125, plan)
    expect(brief(withMark(some, 80, 124, plan))).toHaveLength(4)
    expect(brief(withMark(some, 60, 118, plan))).toEqual([
      ['a', 0, 120],
      ['a', 60, 118],
      ['a', 100, 120],
    ])
  })
})
