import { describe, expect, it } from 'vitest'
import type { Curve } from '../api/types'
import { point, valueAt } from './curve'
import {
  isFixed, mirrored, snapped, suited, withAdded, withEnds, withMoved, withMovedTogether, withOnward, withRemoved,
} from './curveEdit' // prettier-ignore
import { cutoffOf, gainOf, LAWS, levelText, positionOf, positionOfCutoff, positionText } from './laws'

const fade: Curve = [point(0, 1), point(0.5, 1), point(1, 0)]

describe('points of a curve', () => {
  it('stay between their neighbours and within the fader', () => {
    const moved = withMoved(fade, 1, 4, -3, 'outgoing')
    expect(moved[1]![0]).toBeLessThan(1)
    expect(moved[1]![1]).toBe(0)
  })

  it('at the edges keep their place, and their value where the side must be neutral', () => {
    expect(withMoved(fade, 0, 0.3, 0.2, 'outgoing')[0]).toEqual(point(0, 1))
    expect(withMoved(fade, 2, 0.3, 0.4, 'outgoing')[2]).toEqual(point(1, 0.4))
    expect(isFixed(fade, 2, 'incoming')).toBe(true)
  })

  it('are added in order, and not on top of another', () => {
    const added = withAdded(fade, 0.25, 0.5)!
    expect(added.index).toBe(1)
    expect(added.curve.map(([at]) => at)).toEqual([0, 0.25, 0.5, 1])
    expect(withAdded(fade, 0.5005, 0.5)).toBeUndefined()
  })

  it('are taken out, but for the first and the last', () => {
    expect(withRemoved(fade, [1])).toHaveLength(2)
    expect(withRemoved(fade, [0])).toBe(fade)
  })

  it('are put at the edges where a curve has none there', () => {
    expect(withEnds([point(0.4, 0.3)])).toEqual([point(0, 0.3), point(0.4, 0.3), point(1, 0.3)])
  })
})

describe('several points', () => {
  const four: Curve = [point(0, 1), point(0.25, 1), point(0.5, 0.5), point(0.75, 0.5), point(1, 0)]

  it('move together, in their order and between the others', () => {
    const moved = withMovedTogether(four, [1, 2], 0.1, -0.2, 'outgoing')
    expect(moved.map(([at]) => at)).toEqual([0, 0.35, 0.6, 0.75, 1])
    expect(moved.map(([, value]) => Math.round(value * 10) / 10)).toEqual([1, 0.8, 0.3, 0.5, 0])
    const far = withMovedTogether(four, [1, 2], 0.9, 0, 'outgoing')
    expect(far[2]![0]).toBeLessThan(0.75)
    expect(far[2]![0] - far[1]![0]).toBeCloseTo(0.25)
  })

  it('at the edges only change their value', () => {
    const moved = withMovedTogether(four, [0, 1, 2, 3, 4], 0.1, -0.1, 'incoming')
    expect(moved.map(([at]) => at)).toEqual([0, 0.35, 0.6, 0.85, 1])
    expect(moved[4]![1]).toBe(0)
  })

  it('go on in another way', () => {
    expect(withOnward(four, [0, 2], 'step').map((p) => p[2])).toEqual(['step', 'straight', 'step', 'straight', 'straight']) // prettier-ignore
  })
})

describe('a curve elsewhere', () => {
  it('takes the value that the side must have', () => {
    expect(suited(fade, 'incoming', 1)[2]).toEqual(point(1, 1))
    expect(suited([point(0, 0.2), point(1, 0.3)], 'outgoing', 0.5)[0]).toEqual(point(0, 0.5))
  })

  it('mirrored is the partner of even power', () => {
    const partner = mirrored(fade)
    for (const at of [0, 0.3, 0.6, 0.8, 1])
      expect(gainOf(valueAt(fade, at)) ** 2 + gainOf(valueAt(partner, at)) ** 2).toBeCloseTo(1)
  })

  it('snaps to beats of the overlap', () => {
    expect([snapped(0.26, 32, 4), snapped(0.26, 32, 1), snapped(0.26, 32, 0)]).toEqual([0.25, 0.25, 0.26])
  })
})

describe('curves that are not straight', () => {
  it('rise in an S, or stay and step at the next point', () => {
    const curve: Curve = [[0, 0, 'smooth'], [0.5, 1, 'step'], [1, 0, 'straight']] // prettier-ignore
    expect([0.125, 0.25, 0.6, 0.999, 1].map((at) => valueAt(curve, at))).toEqual([0.15625, 0.5, 1, 1, 0])
  })
})

describe('a filter', () => {
  const spec = { law: 'filter' } as const

  it('is open in the middle, and says what it lets through elsewhere', () => {
    expect([0, 0.5, 1].map((v) => positionText(spec, v))).toEqual(['below 80 Hz', 'open', 'above 10 kHz'])
    expect(positionText(spec, 0.25)).toBe('below 1.3 kHz')
  })

  it('comes back from Hz', () => {
    for (const hz of [100, 800, 5000])
      for (const high of [false, true]) expect(cutoffOf(positionOfCutoff(hz, high))).toBeCloseTo(hz, 3)
  })
})

describe('an edge', () => {
  it('is stereo at 0, and says below which frequency it is mono', () => {
    expect([0, 0.25, 0.5, 1].map((v) => positionText({ law: 'edge' }, v))).toEqual([
      'stereo',
      'mono below 160 Hz',
      'mono below 640 Hz',
      'mono below 10 kHz',
    ])
  })

  it('is typed in Hz', () => {
    const { numberOf, positionOf: back } = LAWS.edge.field
    for (const hz of [0, 60, 250, 4000]) expect(numberOf(back(hz, 0))).toBe(hz)
  })
})

describe('levels', () => {
  it('are read between points and held beyond', () => {
    expect([-1, 0.5, 0.75, 2].map((x) => valueAt(fade, x))).toEqual([1, 1, 0.5, 0])
  })

  it('have names', () => {
    expect([0, 1, 0.5].map((v) => levelText(v))).toEqual(['off', '0 dB', '−3.0 dB'])
  })

  it('come back from decibels', () => {
    expect(20 * Math.log10(gainOf(positionOf(-6)))).toBeCloseTo(-6)
  })
})
