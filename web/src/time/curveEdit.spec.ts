import { describe, expect, it } from 'vitest'
import type { Curve } from '../api/types'
import { gainOf, levelText, positionOf, valueAt } from './curve'
import { isFixed, withAdded, withEnds, withMoved, withRemoved } from './curveEdit'

const fade: Curve = [[0, 1], [0.5, 1], [1, 0]] // prettier-ignore

describe('points of a curve', () => {
  it('stay between their neighbours and within the fader', () => {
    const moved = withMoved(fade, 1, 4, -3, 'outgoing')
    expect(moved[1]![0]).toBeLessThan(1)
    expect(moved[1]![1]).toBe(0)
  })

  it('at the edges keep their place, and their value where the side must be neutral', () => {
    expect(withMoved(fade, 0, 0.3, 0.2, 'outgoing')[0]).toEqual([0, 1])
    expect(withMoved(fade, 2, 0.3, 0.4, 'outgoing')[2]).toEqual([1, 0.4])
    expect(isFixed(fade, 2, 'incoming')).toBe(true)
  })

  it('are added in order, and not on top of another', () => {
    const added = withAdded(fade, 0.25, 0.5)!
    expect(added.index).toBe(1)
    expect(added.curve.map(([at]) => at)).toEqual([0, 0.25, 0.5, 1])
    expect(withAdded(fade, 0.5005, 0.5)).toBeUndefined()
  })

  it('are taken out, but for the first and the last', () => {
    expect(withRemoved(fade, 1)).toHaveLength(2)
    expect(withRemoved(fade, 0)).toBe(fade)
  })

  it('are put at the edges where a curve has none there', () => {
    expect(withEnds([[0.4, 0.3]])).toEqual([[0, 0.3], [0.4, 0.3], [1, 0.3]]) // prettier-ignore
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
