import { describe, expect, it, vi } from 'vitest'
import type { Mix } from '../../api/types'

vi.mock('../../sound/player', () => ({ RATE: 44_100, Player: class {} }))
const { samePlace } = await import('./useRenewal')

function mixOf(bpm: number, offset: number): Pick<Mix, 'plan'> {
  const clocks = [{ origin_beat: 0, tempo: [[0, bpm]] }]
  const entries = [
    { id: 'a', start_s: 0, end_s: 60, clock: 0, offset: 0 },
    { id: 'b', start_s: 50, end_s: 200, clock: 0, offset },
  ]
  return { plan: { clocks, entries } } as unknown as Pick<Mix, 'plan'>
}

describe('the same place in a mix that was changed', () => {
  it('is the same beat of the track that was there first', () => {
    expect(samePlace(mixOf(120, 100), mixOf(60, 100), 20)).toBe(40)
    expect(samePlace(mixOf(120, 100), mixOf(120, 108), 55)).toBe(55)
    expect(samePlace(mixOf(120, 100), mixOf(120, 108), 80)).toBe(84)
  })

  it('is the same moment where that track has gone', () => {
    const without = mixOf(60, 100)
    without.plan.entries = without.plan.entries.slice(1)
    expect(samePlace(mixOf(120, 100), without, 20)).toBe(20)
  })
})
