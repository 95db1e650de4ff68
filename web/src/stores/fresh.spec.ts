import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { MixAnswer } from '../api/types'

const server = await vi.hoisted(async () => (await import('../tests/server')).pretendServer())

vi.mock('ant-design-vue', () => ({ message: { error: () => undefined } }))
vi.mock('../api/client', () => server.client)

const { useMix } = await import('./mix')
const { useFresh } = await import('./fresh')

/** A mix of entries in an order, some pairs of which were shaped by hand. */
function mix(version: number, order: string, shaped: readonly string[] = []): MixAnswer {
  const ids = [...order]
  const transitions = ids.slice(1).map((into, i) => ({
    shaped: shaped.includes(ids[i]! + into),
    transition: { out_id: ids[i], in_id: into, outgoing: 0, incoming: 0, manner: 0 },
  }))
  return {
    id: 'm',
    version,
    plan: { entries: ids.map((id) => ({ id })), transitions, sides: [{}], manners: [{}] },
  } as unknown as MixAnswer
}

describe('transitions that were made new', () => {
  beforeEach(() => {
    localStorage.clear()
    setActivePinia(createPinia())
    server.calls.length = server.answers.length = 0
  })

  async function becoming(...states: MixAnswer[]) {
    const store = useMix()
    const fresh = useFresh()
    for (const state of states) {
      server.answers.push(state)
      await store.open('m')
      await nextTick()
    }
    return fresh
  }

  it('are those of new neighbours, and not those that came with the mix', async () => {
    const fresh = await becoming(mix(1, 'abcd'))
    expect(fresh.places).toEqual([])
    expect((await becoming(mix(2, 'abXcd'))).places).toEqual([1, 2])
  })

  it('leave out pairs that were shaped before and have met again', async () => {
    const fresh = await becoming(mix(1, 'abc'), mix(2, 'acb'), mix(3, 'abc', ['ab']))
    expect(fresh.places).toEqual([1])
  })

  it('are forgotten when somebody has looked, when they are shaped, and when the neighbours part', async () => {
    const fresh = await becoming(mix(1, 'abcdef'), mix(2, 'bacedf'))
    expect(fresh.places).toEqual([0, 1, 2, 3, 4])
    fresh.seen(1)
    expect(fresh.places).toEqual([0, 2, 3, 4])
    await becoming(mix(3, 'bacedf', ['ba']))
    expect(fresh.places).toEqual([2, 3, 4])
    await becoming(mix(4, 'baced', ['ba']))
    expect(fresh.places).toEqual([2, 3])
    fresh.seen()
    expect(fresh.places).toEqual([])
  })

  it('are still known after a reload', async () => {
    await becoming(mix(1, 'abc'), mix(2, 'acb'))
    setActivePinia(createPinia())
    expect((await becoming(mix(2, 'acb'))).places).toEqual([0, 1])
  })
})
