import { describe, expect, it } from 'vitest'
import type { Mix, PlannedTransition, Track } from '../api/types'
import { Clock } from '../time/clock'
import { mixPiece, trackPiece, transitionPiece } from './pieces'

const plan = {
  frames: 44_100 * 100,
  clocks: [{ origin_beat: 0, tempo: [[0, 60]] as [number, number][] }],
  entries: [{ id: 'e1', title: 'Moss' }, { id: 'e2', title: 'Fern' }], // prettier-ignore
}
const mix = { id: 'm', name: 'Night', plan } as unknown as Mix
const clock = new Clock(plan.clocks[0]!)
const transition = (start: number, end: number) =>
  ({
    index: 0,
    start_beat: start,
    end_beat: end,
    hand_over_beat: (start + end) / 2,
    transition: { out_id: 'e1', in_id: 'e2', lead: start === end ? 4 : 0 },
  }) as PlannedTransition

describe('what can be listened to', () => {
  it('is a transition from eight beats before to eight after', () => {
    const piece = transitionPiece(mix, clock, transition(40, 56))
    expect([piece.start, piece.end]).toEqual([32 * 44_100, 64 * 44_100])
    expect(piece.url(piece.start)).toBe(`/api/mixes/m/audio?start=${32 * 44_100}&end=${64 * 44_100}`)
    expect(piece.label).toBe('Moss → Fern')
    expect(piece.loops).toBe(true)
  })

  it('is one side of it alone', () => {
    expect(transitionPiece(mix, clock, transition(40, 56), { heard: 'incoming' }).url(0)).toContain(
      '&entry=e2',
    )
    expect(transitionPiece(mix, clock, transition(40, 56), { heard: 'outgoing' }).url(0)).toContain(
      '&entry=e1',
    )
  })

  it('is a cut with its lead, as much around it as one likes, or the hand-over alone', () => {
    const span = (start: number, end: number, hearing: object) => {
      const piece = transitionPiece(mix, clock, transition(start, end), hearing)
      return [piece.start, piece.end].map((frame) => frame / 44_100)
    }
    expect(span(40, 40, {})).toEqual([28, 48])
    expect(span(40, 56, { around: 16 })).toEqual([24, 72])
    expect(span(40, 56, { handOverOnly: true })).toEqual([40, 56])
  })

  it('is found again in a mix that was changed, where its two tracks still meet', () => {
    const piece = transitionPiece(mix, clock, transition(40, 56), { heard: 'incoming' })
    const later = { ...mix, plan: { ...plan, transitions: [transition(48, 64)] } } as unknown as Mix
    expect(piece.again!(later)).toMatchObject({ start: 40 * 44_100, label: 'Fern, incoming' })
    expect(piece.again!({ ...mix, plan: { ...plan, transitions: [] } } as unknown as Mix)).toBeUndefined()
  })

  it('stays within the mix', () => {
    const piece = transitionPiece(mix, clock, transition(3, 98))
    expect([piece.start, piece.end]).toEqual([0, plan.frames])
  })

  it('is the whole mix, or a track, which are not kept and do not loop', () => {
    expect(mixPiece(mix)).toMatchObject({ start: 0, end: plan.frames, loops: false })
    const track = { id: 't', title: 'Moss', artist: 'Orla', duration_s: 2 } as Track
    expect(trackPiece(track)).toMatchObject({ label: 'Moss – Orla', end: 88_200, loops: false })
  })
})
