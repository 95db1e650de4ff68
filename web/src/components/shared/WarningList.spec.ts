import { mount, RouterLinkStub } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Command, MixWarning } from '../../api/types'

vi.mock('../../sound/player', () => ({ RATE: 44_100, Player: class {} }))
vi.mock('vue-router', () => ({ useRoute: () => ({ params: { mix: 'm' } }) }))
const { useMix } = await import('../../stores/mix')
const { default: WarningList } = await import('./WarningList.vue')

const cut = { kind: 'set_kind', out_id: 'a', in_id: 'b', to: 'cut' } as const
const basses = { kind: 'two_basses', message: 'Two basses.', transition: 0, entry: null, key: 'two_basses a b', is_meant: false, mends: [{ label: 'Cut instead', command: cut }] } as unknown as MixWarning // prettier-ignore
const grid = { kind: 'no_grid', message: 'No grid.', transition: null, entry: 1, key: 'no_grid b', is_meant: true, mends: [] } as unknown as MixWarning // prettier-ignore

let sent: Command[]

function list(warnings: MixWarning[], places = false) {
  return mount(WarningList, {
    props: { warnings, places },
    global: { stubs: { RouterLink: RouterLinkStub } },
  })
}

describe('a list of warnings', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    sent = []
    const mix = useMix()
    mix.mix = { id: 'm', plan: { entries: [{ title: 'Moss' }, { title: 'Fern' }] } } as never
    vi.spyOn(mix, 'send').mockImplementation((command) => {
      sent.push(command)
      return Promise.resolve(true)
    })
  })

  const press = (wrapper: ReturnType<typeof list>, text: string) =>
    wrapper
      .findAll('button')
      .find((b) => b.text() === text)!
      .trigger('click')

  it('puts what is meant last, and offers nothing to mend it', () => {
    const items = list([grid, basses]).findAll('li')
    expect(items.map((i) => i.find('p').text())).toEqual(['Two basses.', 'No grid.'])
    expect(items[1]!.classes()).toContain('meant')
    expect(items[1]!.findAll('button').map((b) => b.text())).toEqual(['Show again'])
  })

  it('mends by one command, and marks as meant by another', async () => {
    const wrapper = list([basses])
    await press(wrapper, 'Cut instead')
    await press(wrapper, 'Ignore')
    expect(sent).toEqual([cut, { kind: 'mark_as_meant', key: 'two_basses a b', meant: true }])
  })

  it('leads to the places where there are several', () => {
    const links = list([basses, grid], true).findAllComponents(RouterLinkStub)
    expect(links.map((l) => l.text())).toEqual(['Moss → Fern', 'Fern'])
    expect(links[0]!.props('to')).toEqual({ name: 'transitions', params: { mix: 'm', number: 1 } })
    expect(list([basses]).findAllComponents(RouterLinkStub)).toHaveLength(0)
  })
})
