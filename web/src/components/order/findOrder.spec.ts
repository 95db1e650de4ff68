import { mount, flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { Command, OrderSearch, Proposal, Wishes } from '../../api/types'
import type { LibraryPart } from '../../composables/order/useOrders'
import { startingWishes } from '../../time/shapes'

const search = ref<OrderSearch | null>(null)
const asked: [Wishes, LibraryPart | null][] = []
const cancelled: string[] = []
const sent: Command[] = []
const heard: [Command, number][] = []

vi.mock('../../composables/order/useOrders', () => ({
  useOrders: () => ({ data: search, isPending: ref(false) }),
  useOrderActions: () => ({
    find: (wishes: Wishes, library: LibraryPart | null) => Promise.resolve(asked.push([wishes, library])),
    cancel: (id: string) => Promise.resolve(cancelled.push(id)),
  }),
}))
vi.mock('../../composables/library/useLibrary', () => ({
  useGathered: () => ({ data: ref({ lists: [], filters: [] }) }),
}))
vi.mock('../../composables/page/useTables', () => ({
  useShapes: () => ({ data: ref({ rising: [[0, 0.1], [1, 1]] }) }),
})) // prettier-ignore
vi.mock('../../composables/page/useKeys', () => ({ useKeys: () => undefined }))
vi.mock('../../composables/mix/useTrials', () => ({
  useTrials: () => ({ hear: (command: Command, place: number) => heard.push([command, place]) }),
}))
vi.mock('../../stores/mix', () => ({
  useMix: () => ({
    mix: { id: 'm' },
    plan: {
      entries: [
        { fixed: 1, with_next: false },
        { fixed: null, with_next: true },
        { fixed: null, with_next: false },
      ],
    },
    send: (command: Command) => Promise.resolve(sent.push(command) > 0),
  }),
}))

const { default: FindOrder } = await import('./FindOrder.vue')

function proposal(aims: Proposal['aims'], order: string, gap: number | null, bend: number): Proposal {
  return {
    aims,
    gap,
    left_out: aims.length ? ['Spare'] : [],
    seats: [...order].map((id, i) => ({
      seat: { entry_id: id, track_id: null, count: 1, key_shift: i === 1 && aims.length ? -1 : 0 },
      track_id: id,
      title: id.toUpperCase(),
      artist: '',
      bpm: 120 + i,
      key: 'Am',
      walk: 0,
      energy: 0.5,
      is_new: false,
      step: i ? { relation: 'same', is_leap: false, tempo_words: '+1 %, +1 BPM', key_words: 'same key' } : null,
    })) as Proposal['seats'],
    appraisal: {
      cost: 1, mean_bend: bend, largest_bend: bend, leaps: 0, fitting: 2, creative: 0, clashes: 0, unknown_keys: 0,
      off_shape: 0.2, energy_step: 0.1, same_artist: 0, pairings: 0, short_rooms: 0, shifted: 0, tracks: 3, seconds: 600,
    },
  } // prettier-ignore
}

function found(state: 'running' | 'done' | 'failed', proposals: Proposal[] = []): OrderSearch {
  return {
    job: { id: 'j', state, progress: 0.4, error: state === 'failed' ? 'It went wrong.' : null },
    wishes: { ...startingWishes(), shape: 'arc' },
    present: proposals.length ? proposal([], 'abc', 0, 0.05) : null,
    proposals,
    is_current: true,
  } as OrderSearch
}

const button = (wrapper: ReturnType<typeof mount>, name: string) =>
  wrapper.findAll('button').find((b) => b.text().includes(name))

describe('finding an order', () => {
  beforeEach(() => {
    search.value = null
    asked.length = cancelled.length = sent.length = heard.length = 0
  })

  it('begins with wishes that are good, says what stays, and asks with what was chosen', async () => {
    const wrapper = mount(FindOrder)
    expect(wrapper.text()).toContain('1 fixed, 2 kept together: they stay so.')
    await wrapper.find('select').setValue('rising')
    await button(wrapper, 'Start, length')!.trigger('click')
    await wrapper.find('[aria-label="A wished length"]').trigger('click')
    await wrapper.find('[aria-label="The library may be used"]').trigger('click')
    await button(wrapper, 'Find orders')!.trigger('click')
    await flushPromises()
    expect(asked).toHaveLength(1)
    expect(asked[0]![0]).toMatchObject({ shape: 'rising', length_s: 3600, leave_out: 0 })
    expect(asked[0]![1]).toEqual({ search: '', list_id: null })
  })

  it('shows how far a search is, and lets it be cancelled', async () => {
    search.value = found('running')
    const wrapper = mount(FindOrder)
    expect(wrapper.text()).toContain('Looking for orders')
    expect(wrapper.find('[aria-label="40 % of the search"]').exists()).toBe(true)
    await button(wrapper, 'Cancel')!.trigger('click')
    expect(cancelled).toEqual(['j'])
  })

  it('says why nothing was found', () => {
    search.value = found('failed')
    expect(mount(FindOrder).text()).toContain('It went wrong.')
  })

  it('sets proposals beside the present order, and goes on from what was wished', async () => {
    search.value = found('done', [
      proposal(['together', 'tempo'], 'bac', 0, 0.02),
      proposal(['key'], 'cab', 0.021, 0.06),
      proposal(['shape'], 'cba', null, 0.05),
    ])
    const wrapper = mount(FindOrder)
    const columns = wrapper.findAll('article')
    expect(columns.map((c) => c.find('h3').text())).toEqual([
      'As it is',
      'All together, Smoothest tempo',
      'Closest keys',
      'The wished shape',
    ])
    expect(columns.map((c) => c.find('header .soft').text())).toEqual([
      'the order that there is',
      'proven: none is better',
      'within 2.1 % of the best possible',
      'how near to the best possible is not known',
    ])
    expect(columns[1]!.find('dd').classes()).toContain('better')
    expect(columns[2]!.find('dd').classes()).toContain('worse')
    expect(columns[1]!.text()).toContain('Left out: Spare')
    expect((wrapper.find('select').element as HTMLSelectElement).value).toBe('arc')
  })

  it('lets a seam be heard before an order is used, and uses it as one command', async () => {
    search.value = found('done', [proposal(['together'], 'bca', 0, 0.02)])
    const wrapper = mount(FindOrder)
    const column = wrapper.findAll('article')[1]!
    await column.find('[aria-label="Listen to C into A"]').trigger('click')
    expect(heard[0]![1]).toBe(1)
    expect(sent).toEqual([])
    await column
      .findAll('button')
      .find((b) => b.text().includes('Use this order'))!
      .trigger('click')
    await flushPromises()
    expect(sent).toEqual([heard[0]![0]])
    expect((sent[0] as { seats: object[] }).seats[1]).toMatchObject({ entry_id: 'c', key_shift: -1 })
    expect(wrapper.emitted('close')).toHaveLength(1)
  })

  it('warns when the mix has other tracks by now', () => {
    search.value = { ...found('done', [proposal(['together'], 'bca', 0, 0.02)]), is_current: false }
    expect(mount(FindOrder).text()).toContain('The mix has other tracks now')
  })
})
