import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { Command, Entry, Jump, Step } from '../../api/types'
import type { ListedTrack } from '../../library/trackTable'

const sent: Command[] = []
const heard: [Command, number][] = []
const jump = ref<Jump>()
const failure = ref<Error | null>(null)
let press: (key: string) => void = () => undefined

vi.mock('../../stores/mix', () => ({
  useMix: () => ({
    mix: { id: 'm', version: 3 },
    plan: { transitions: [undefined, undefined, { step: step('clash', '+6 %') }] },
    send: (command: Command) => Promise.resolve(sent.push(command) > 0),
  }),
}))
vi.mock('../../composables/order/useOrders', () => ({
  useJump: () => ({ data: jump, isPending: ref(false), error: failure }),
}))
vi.mock('../../composables/mix/useTrials', () => ({
  useTrials: () => ({ hear: (command: Command, place: number) => heard.push([command, place]) }),
}))
vi.mock('../../composables/page/useKeys', () => ({
  useKeys: (_: string, [binding]: { run: (e: unknown) => void }[]) => {
    press = (key) => binding!.run({ key })
  },
}))

const { default: JumpPane } = await import('./JumpPane.vue')

function step(relation: Step['relation'], tempo: string): Step {
  const words = { tempo_words: `${tempo}, +2 BPM`, key_words: relation ?? 'key unknown', energy_words: '' }
  return { bend: 0.02, relation, shift: -1, pairing: null, is_leap: false, ...words }
}

const SHIFT: Command = { kind: 'set_key_shift', entry_id: 'e4', semitones: -1 }
const bridge = (id: string) => ({
  track_id: id,
  before: step('neighbour', '+2 %'),
  after: step('same', '+4 %'),
  cost: 0.3,
})
const track = (id: string) =>
  [id, { id, title: id.toUpperCase(), bpm: 124, key: 'Am' } as ListedTrack] as const

function pane() {
  return mount(JumpPane, {
    props: {
      out: { id: 'e3', index: 2, title: 'Wet Glass' } as Entry,
      into: { id: 'e4', index: 3, title: 'Heliconia' } as Entry,
      byId: new Map([track('x'), track('y')]),
      search: '',
      list: undefined,
    },
  })
}

describe('what bridges a jump', () => {
  beforeEach(() => {
    sent.length = heard.length = 0
    failure.value = null
    jump.value = {
      cost: 1.2,
      cures: [{ kind: 'key_shift', words: 'Shift it by −1', command: SHIFT }],
      bridges: [bridge('x'), bridge('y'), bridge('gone')],
    }
  })

  it('says what the jump is, and lists tracks that are still in the library', () => {
    const wrapper = pane()
    expect(wrapper.find('.now').text()).toContain('+6 %')
    expect(wrapper.findAll('.bridges li')).toHaveLength(2)
    expect(wrapper.find('.bridges .half').text()).toContain('+2 % · neighbour')
  })

  it('lets a cure be heard where the jump is, and done', async () => {
    const wrapper = pane()
    await wrapper.find('[aria-label="Listen: Shift it by −1"]').trigger('click')
    expect(heard).toEqual([[SHIFT, 2]])
    expect(sent).toEqual([])
    await wrapper.find('[aria-label="Apply: Shift it by −1"]').trigger('click')
    await flushPromises()
    expect(sent).toEqual([SHIFT])
  })

  it('lets a track be heard against both sides, and inserted by a click or by its number', async () => {
    const wrapper = pane()
    const insertion = (id: string) => ({ kind: 'add_tracks', track_ids: [id], at: 3 })
    await wrapper.find('[aria-label="Listen to Wet Glass into X"]').trigger('click')
    await wrapper.find('[aria-label="Listen to X into Heliconia"]').trigger('click')
    expect(heard).toEqual([
      [insertion('x'), 2],
      [insertion('x'), 3],
    ])
    await wrapper.find('[aria-label="Insert X"]').trigger('click')
    press('2')
    press('9')
    expect(sent).toEqual([insertion('x'), insertion('y')])
  })

  it('says so where nothing bridges it, and where it cannot be known', async () => {
    jump.value = { cost: 0, cures: [], bridges: [] }
    expect(pane().text()).toContain('No track of this part')
    failure.value = new Error('There is no jump after that entry any more.')
    expect(pane().text()).toContain('There is no jump')
  })
})
