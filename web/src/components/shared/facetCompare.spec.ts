import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { FacetRead, MarkFacet } from '../../api/types'
import FacetCompare from './FacetCompare.vue'

const part = (facet: MarkFacet, here: string[], there: string[]): FacetRead => ({
  facet,
  here,
  there,
  differs: here.join() !== there.join(),
})

function compare(parts: FacetRead[], more: object = {}) {
  const chosen: MarkFacet[][] = []
  const wrapper = mount(FacetCompare, {
    props: { parts, there: 'In the file', chosen: [], 'onUpdate:chosen': (c: MarkFacet[]) => chosen.push(c), ...more }, // prettier-ignore
  })
  const cells = (row: number) =>
    wrapper
      .findAll('tbody tr')
      [row]!.findAll('td')
      .map((c) => c.text())
  return { wrapper, chosen, cells }
}

describe('two states of a track, side by side', () => {
  it('show what is only here and only there, and count what is in both', () => {
    const { cells } = compare([part('cues', ['0:01 a', '0:02 b', '0:03 c'], ['0:01 a', '0:04 d'])])
    expect(cells(0)).toEqual(['0:02 b0:03 c1 in both', '0:04 d'])
  })

  it('say where there is nothing on a side, and where both are the same', () => {
    const { cells, wrapper } = compare([part('loops', [], ['x']), part('key', ['Am'], ['Am'])])
    expect(cells(0)).toEqual(['none', 'x'])
    expect(cells(1)).toEqual(['the same on both sides'])
    expect(wrapper.findAll('input').map((i) => i.element.disabled)).toEqual([false, true])
  })

  it('do not go on for ever', () => {
    const many = Array.from({ length: 40 }, (_, i) => `${i}`)
    expect(compare([part('cues', [], many)]).cells(0)[1]).toMatch(/7and 32 more$/)
  })

  it('are ticked part by part, or only looked at', async () => {
    const parts = [part('grid', ['120'], ['121']), part('cues', [], ['a'])]
    const { wrapper, chosen } = compare(parts)
    await wrapper.findAll('input')[1]!.setValue(true)
    expect(chosen).toEqual([['cues']])
    expect(compare(parts, { onlyShown: true }).wrapper.findAll('input')).toHaveLength(0)
  })
})
