import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'

const { useMix } = await import('../../stores/mix')
const { default: KeptPlaces } = await import('./KeptPlaces.vue')

function line(kept: number[]) {
  const mix = useMix()
  mix.mix = { kept, plan: { entries: [{ title: 'Moss' }, { title: 'Fern' }, { title: 'Oak' }] } } as never
  const send = vi.spyOn(mix, 'send').mockResolvedValue(true)
  return { wrapper: mount(KeptPlaces), send }
}

describe('transitions that stayed where they were', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('are said until somebody decides', async () => {
    const { wrapper, send } = line([1])
    expect(wrapper.text()).toContain('Fern → Oak stayed in place')
    const [place, leave] = wrapper.findAll('button')
    await place!.trigger('click')
    await leave!.trigger('click')
    expect(send.mock.calls.map(([command]) => command)).toEqual([
      { kind: 'settle_places', again: true },
      { kind: 'settle_places', again: false },
    ])
  })

  it('are counted where they are several, and nothing is said of none', () => {
    expect(line([0, 1]).wrapper.text()).toContain('2 transitions stayed in place')
    expect(line([]).wrapper.find('section').exists()).toBe(false)
  })
})
