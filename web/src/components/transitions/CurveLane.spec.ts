import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Curve } from '../../api/types'
import { hueOf } from '../../theme/hues'
import CurveLane from './CurveLane.vue'

const out: Curve = [[0, 1], [0.5, 0.5], [1, 0]] // prettier-ignore
const into: Curve = [[0, 0], [1, 1]] // prettier-ignore

function lane(place?: number) {
  return mount(CurveLane, {
    props: {
      control: 'low',
      label: 'Low',
      curves: { outgoing: out, incoming: into },
      hues: { outgoing: hueOf(0), incoming: hueOf(1) },
      startX: 100,
      endX: 300,
      width: 400,
      height: 54,
      place,
    },
  })
}

describe('a lane with both sides’ curves', () => {
  it('draws each line over the overlap and level beyond it', () => {
    const lines = lane().findAll('polyline')
    expect(lines[0]!.attributes('points')).toBe('0,7 100,7 200,27 300,47')
    expect(lines[1]!.attributes('points')).toBe('100,47 300,7 400,7')
  })

  it('names its points and tells their levels', () => {
    const points = lane().findAll('[role=slider]')
    expect(points.map((p) => p.attributes('aria-label'))).toEqual([
      'outgoing low point 1',
      'outgoing low point 2',
      'outgoing low point 3',
      'incoming low point 1',
      'incoming low point 2',
    ])
    expect(points.map((p) => p.attributes('aria-valuetext'))).toEqual([
      '0 dB',
      '−3.0 dB',
      'off',
      'off',
      '0 dB',
    ])
  })

  it('moves a point by keys, finely with shift', async () => {
    const wrapper = lane()
    await wrapper.findAll('[role=slider]')[1]!.trigger('keydown', { key: 'ArrowUp' })
    await wrapper.findAll('[role=slider]')[1]!.trigger('keydown', { key: 'ArrowRight', shiftKey: true })
    const [up, right] = wrapper.emitted('change') as [string, Curve][]
    expect(up![1][1]![1]).toBeCloseTo(0.55)
    expect(right![1][1]![0]).toBeCloseTo(0.504)
  })

  it('keeps the level that a side must start or end with', async () => {
    const wrapper = lane()
    await wrapper.findAll('[role=slider]')[0]!.trigger('keydown', { key: 'ArrowDown' })
    const [[, curve]] = wrapper.emitted('change') as [[string, Curve]]
    expect(curve[0]).toEqual([0, 1])
  })

  it('takes out a point by key and by double click, but no edge', async () => {
    const wrapper = lane()
    const points = wrapper.findAll('[role=slider]')
    await points[1]!.trigger('keydown', { key: 'Delete' })
    await points[1]!.trigger('dblclick')
    await points[2]!.trigger('dblclick')
    const changes = wrapper.emitted('change') as [string, Curve][]
    expect(changes.map(([, c]) => c.length)).toEqual([2, 2])
  })

  it('reads both levels at the playhead', () => {
    expect(lane(0.5).find('.reading').text()).toBe('−3.0 dB / −3.0 dB')
    expect(lane().find('.reading').exists()).toBe(false)
  })

  it('tells which point is looked at', async () => {
    const wrapper = lane()
    await wrapper.findAll('[role=slider]')[4]!.trigger('focus')
    expect(wrapper.emitted('pick')).toEqual([['incoming', 1]])
  })
})
