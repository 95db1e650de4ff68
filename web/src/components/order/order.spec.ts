import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { Appraisal } from '../../api/types'
import { weighed } from '../../time/appraisal'
import { rangesOf, type ProfilePoint } from '../../time/profile'
import { DRAWN_POINTS, levelsOf } from '../../time/shapes'
import OrderProfiles from './OrderProfiles.vue'
import ShapeField from './ShapeField.vue'

vi.mock('../../composables/page/useTables', () => ({
  useShapes: () => ({ data: ref({ rising: [[0, 0.1], [1, 1]] }) }),
})) // prettier-ignore

function point(id: string, bpm: number | null, walk: number | null, key: string | null, energy: number[]) {
  return { id, title: id.toUpperCase(), bpm, walk, key, energy, course: [] } satisfies ProfilePoint
}

const POINTS = [
  point('a', 120, 0, 'Am', [0.2, 0.4]),
  point('b', 124, 1, 'G', [0.6, 0.5]),
  point('c', 174, 6, 'Ebm', []),
]

function profiles(shown = [0, 1, 2]) {
  return mount(OrderProfiles, {
    props: { points: POINTS, ranges: rangesOf(POINTS), shown, rowHeight: 80, lineHeight: 50, column: 60 },
  })
}

describe('the profiles beside the order', () => {
  it('run down the list and mark a leap of tempo and a wide step of keys', () => {
    const wrapper = profiles()
    const steps = wrapper.findAll('.step')
    expect(steps.map((s) => s.classes('wide'))).toEqual([false, true, false, true])
    expect(wrapper.find('.leap').text()).toBe('+40 %')
    expect(wrapper.findAll('.dot').map((d) => d.classes('hollow'))).toEqual([false, true, false])
    expect(wrapper.text()).toContain('174')
  })

  it('read all three at a moment', async () => {
    const wrapper = profiles()
    const move = new Event('pointermove')
    Object.defineProperty(move, 'offsetY', { value: 80 + 60 })
    wrapper.find('svg').element.dispatchEvent(move)
    await wrapper.vm.$nextTick()
    expect(wrapper.find('.read').text()).toContain('2. B')
    expect(wrapper.find('.read').text()).toContain('124 BPM · G · energy 50 %')
  })

  it('are as wide as the mix, but never so wide that nothing looks like a leap', () => {
    expect(rangesOf(POINTS.slice(0, 1)).bpm).toEqual({ low: 118, high: 122 })
    expect(rangesOf(POINTS).walk).toEqual({ low: 0, high: 6 })
  })
})

describe('the shape of the energy', () => {
  it('is drawn by hand as soon as a point is moved', async () => {
    const wrapper = mount(ShapeField, { props: { shape: 'rising', drawn: [] } })
    await wrapper.findAll('[role=slider]')[4]!.trigger('keydown', { key: 'ArrowUp' })
    const drawn = wrapper.emitted('update:drawn')![0]![0] as [number, number][]
    expect(wrapper.emitted('update:shape')).toEqual([['drawn']])
    expect(drawn).toHaveLength(DRAWN_POINTS)
    expect(drawn[4]).toEqual([0.5, 0.6])
    expect(levelsOf(drawn, 3)).toEqual([0.1, 0.6, 1])
  })
})

describe('an order in numbers', () => {
  it('says what is better and what is worse than in another', () => {
    const present = {
      mean_bend: 0.03, largest_bend: 0.2, leaps: 2, fitting: 3, creative: 0, clashes: 4, unknown_keys: 0,
      off_shape: null, energy_step: 0.2, same_artist: 0, pairings: 1, short_rooms: 0, shifted: 0, tracks: 9,
      seconds: 1800, cost: 5,
    } satisfies Appraisal // prettier-ignore
    const found = weighed({ ...present, leaps: 0, fitting: 2, seconds: 1700 }, present)
    const verdicts = Object.fromEntries(found.map((f) => [f.label, f.verdict]))
    expect(verdicts).toMatchObject({
      Leaps: 'better',
      'Keys fit': 'worse',
      Clashes: 'same',
      'Lasts about': 'same',
    })
    expect(verdicts).not.toHaveProperty('Off the shape')
  })
})
