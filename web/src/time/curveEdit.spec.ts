import { describe, expect, it } from 'vitest'
import { gainOf, levelText, positionOf, valueAt } from './curve'
import { isFixed, withAdded, withEnds, withMoved, withRemoved } from './curveEdit'

const fade = { points: [{ at: 0, value: 1 }, { at: 0.5, value: 1 }, { at: 1, value: 0 }] } // prettier-ignore

describe('points of a curve', () => {
  it('stay between their neighbours and within the fader', () => {
    const moved = withMoved(fade, 1, 4, -3, 'outgoing')
    expect(moved.points[1]!.at).toBeLessThan(1)
    expect(moved.points[1]!.value).toBe(0)
  })

  it('at the edges keep their place, and their value where the side must be neutral', () => {
    expect(withMoved(fade, 0, 0.3, 0.2, 'outgoing').points[0]).toEqual({ at: 0, value: 1 })
    expect(withMoved(fade, 2, 0.3, 0.4, 'outgoing').points[2]).toEqual({ at: 1, value: 0.4 })
    expect(isFixed(fade, 2, 'incoming')).toBe(true)
  })

  it('are added in order, and not on top of another', () => {
    const added = withAdded(fade, 0.25, 0.5)!
    expect(added.index).toBe(1)
    expect(added.curve.points.map((p) => p.at)).toEqual([0, 0.25, 0.5, 1])
    expect(withAdded(fade, 0.5005, 0.5)).toBeUndefined()
  })

  it('are taken out, but for the first and the last', () => {
    expect(withRemoved(fade, 1).points).toHaveLength(2)
    expect(withRemoved(fade, 0)).toBe(fade)
  })

  it('are put at the edges where a curve has none there', () => {
    const inner = { points: [{ at: 0.4, value: 0.3 }] }
    expect(withEnds(inner).points.map((p) => [p.at, p.value])).toEqual([[0, 0.3], [0.4, 0.3], [1, 0.3]]) // prettier-ignore
  })
})

describe('levels', () => {
  it('are read between points and held beyond', () => {
    expect([-1, 0.5, 0.75, 2].map((x) => valueAt(fade, x))).toEqual([1, 1, 0.5, 0])
  })

  it('have names', () => {
    expect([0, 1, 0.5].map(levelText)).toEqual(['off', '0 dB', '−3.0 dB'])
  })

  it('come back from decibels', () => {
    expect(20 * Math.log10(gainOf(positionOf(-6)))).toBeCloseTo(-6)
  })
})
