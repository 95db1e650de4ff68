import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { MixAnswer } from '../api/types'

const told: string[] = []
const server = await vi.hoisted(async () => (await import('../tests/server')).pretendServer())

vi.mock('ant-design-vue', () => ({ message: { error: (m: { content: string }) => told.push(m.content) } }))
vi.mock('../api/client', () => server.client)

const { ApiError } = await import('../api/client')
const { useMix } = await import('./mix')

function mix(version: number, name = 'Night'): MixAnswer {
  return {
    id: 'm',
    version,
    name,
    undo: null,
    redo: null,
    target_lufs: -14,
    plan: { entries: [], transitions: [], sides: [], manners: [] },
  } as unknown as MixAnswer
}

describe('the mix that is open', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    server.calls.length = server.answers.length = told.length = 0
  })

  async function opened(version = 1) {
    const store = useMix()
    server.answers.push(mix(version))
    await store.open('m')
    server.calls.length = 0
    return store
  }

  it('gives each transition its curves, which come once for all that are alike', async () => {
    const rising = { volume: [[0, 0], [1, 1]] } // prettier-ignore
    const falling = { volume: [[0, 1], [1, 0]] } // prettier-ignore
    const between = (at: number) => ({ transition: { out_at: at, outgoing: 1, incoming: 0, manner: 0 } })
    const plan = {
      entries: [],
      transitions: [between(8), between(16)],
      sides: [rising, falling],
      manners: [{ kind: 'blend' }],
    }
    server.answers.push({ ...mix(1), plan })
    const store = useMix()
    await store.open('m')
    const resolved = (at: number) => ({ out_at: at, kind: 'blend', outgoing: falling, incoming: rising })
    expect(store.plan?.transitions.map((t) => t.transition)).toEqual([resolved(8), resolved(16)])
  })

  it('sends changes one after the other, each on the version of the one before', async () => {
    const store = await opened()
    server.answers.push(mix(2), mix(3), mix(4))
    const sent = [1, 2, 3].map((n) => store.send({ kind: 'rename_mix', name: `N${n}` }))
    expect(await Promise.all(sent)).toEqual([true, true, true])
    expect(server.calls.map((c) => c.body?.version)).toEqual([1, 2, 3])
    expect(store.mix?.version).toBe(4)
  })

  it('tells why a change was refused, and keeps the mix as it was', async () => {
    const store = await opened()
    server.answers.push(new ApiError('It does not fit.', 422))
    expect(await store.send({ kind: 'rename_mix', name: 'x' })).toBe(false)
    expect(told).toEqual(['It does not fit.'])
    expect(store.mix?.version).toBe(1)
  })

  it('looks again when the mix was changed elsewhere', async () => {
    const store = await opened()
    server.answers.push(new ApiError('changed elsewhere', 409, 7), mix(7, 'From the other tab'))
    expect(await store.send({ kind: 'rename_mix', name: 'x' })).toBe(false)
    expect(store.mix).toMatchObject({ version: 7, name: 'From the other tab' })
  })

  it('follows news of newer versions, and only of them', async () => {
    const store = await opened(5)
    await store.heard('m', 5)
    await store.heard('other', 9)
    expect(server.calls).toEqual([])
    server.answers.push(mix(6))
    await store.heard('m', 6)
    expect(store.mix?.version).toBe(6)
  })

  it('never goes back to an older version that arrives late', async () => {
    const store = await opened(5)
    server.answers.push(mix(4))
    await store.open('m')
    expect(store.mix?.version).toBe(5)
  })

  it('knows a mix that is gone from one that could not be fetched', async () => {
    const store = useMix()
    server.answers.push(new ApiError('gone', 404))
    await store.open('m')
    expect(store.missing).toBe(true)
    server.answers.push(new ApiError('no answer', 0))
    await store.open('m')
    expect([store.missing, store.failure]).toEqual([false, 'no answer'])
  })

  it('undoes and redoes on the present version', async () => {
    const store = await opened(3)
    server.answers.push(mix(4), mix(5))
    await store.undo()
    await store.redo()
    expect(server.calls.map((c) => [c.path.split('/').pop(), c.body?.version])).toEqual([['undo', 3], ['redo', 4]]) // prettier-ignore
  })
})
