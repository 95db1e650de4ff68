import { describe, expect, it } from 'vitest'
import type { Mix, PlannedTransition, Track } from '../api/types'
import { Clock } from '../time/clock'
import { mixPiece, trackPiece, transitionPiece } from './pieces'

const plan = {
  frames: 44_100 * 100,
  origin_beat: 0,
  tempo: [[0, 60]] as [number, number][],
  entries: [{ id: 'e1', title: 'Moss' }, { id: 'e2', title: 'Fern' }], // prettier-ignore
}
const mix = { id: 'm', name: 'Night', plan } as unknown as Mix
const clock = new Clock(plan)
const transition = (start: number, end: number) =>
  ({ index: 0, start_beat: start, end_beat: end }) as PlannedTransition

describe('what can be listened to', () => {
  it('is a transition from eight beats before to eight after', () => {
    const piece = transitionPiece(mix, clock, transition(40, 56), 'both')
    expect([piece.start, piece.end]).toEqual([32 * 44_100, 64 * 44_100])
    expect(piece.url(piece.start)).toBe(`/api/mixes/m/audio?start=${32 * 44_100}&end=${64 * 44_100}`)
    expect(piece.label).toBe('Moss → Fern')
    expect(piece.loops).toBe(true)
  })

  it('is one side of it alone', () => {
    expect(transitionPiece(mix, clock, transition(40, 56), 'incoming').url(0)).toContain('&entry=e2')
    expect(transitionPiece(mix, clock, transition(40, 56), 'outgoing').url(0)).toContain('&entry=e1')
  })

  it('stays within the mix', () => {
    const piece = transitionPiece(mix, clock, transition(3, 98), 'both')
    expect([piece.start, piece.end]).toEqual([0, plan.frames])
  })

  it('is the whole mix, or a track, which are not kept and do not loop', () => {
    expect(mixPiece(mix)).toMatchObject({ start: 0, end: plan.frames, loops: false })
    const track = { id: 't', title: 'Moss', artist: 'Orla', duration_s: 2 } as Track
    expect(trackPiece(track)).toMatchObject({ label: 'Moss – Orla', end: 88_200, loops: false })
  })
})
