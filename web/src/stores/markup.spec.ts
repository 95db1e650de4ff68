import { createPinia, setActivePinia } from 'pinia'
import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { OpenTrack } from '../api/types'

const told: string[] = []
const server = await vi.hoisted(async () => (await import('../tests/server')).pretendServer())

vi.mock('ant-design-vue', () => ({ message: { error: (m: { content: string }) => told.push(m.content) } }))
vi.mock('../api/client', () => server.client)

const { ApiError } = await import('../api/client')
const { useGridActions } = await import('../composables/track/useGridActions')
const { useMarkup } = await import('./markup')
const { noteWaiting } = await import('./resting')

function track(version: number, changes: object = {}, id = 't'): OpenTrack {
  return {
    id, version, undo: null, redo: null,
    markup: {
      grid: {
        anchors: [{ time_s: 1, beat: 0, ramp: 1 }, { time_s: 11, beat: 20, ramp: 1 }], bpm_before: 120, bpm_after: 120, beats_per_bar: 4, bars_from: [],
      },
      sections: [], voice: [], by_hand: false, checked: false, ...changes,
    },
  } as unknown as OpenTrack // prettier-ignore
}
const offsets = (late: number) => ({ first: 0, late_ms: [late], clear: [1] })

beforeEach(() => {
  setActivePinia(createPinia())
  server.calls.length = server.answers.length = told.length = 0
})

async function opened(version = 1, changes: object = {}) {
  const store = useMarkup()
  server.answers.push(track(version, changes), offsets(0))
  await store.open('t')
  await flushPromises()
  server.calls.length = 0
  return store
}

it('sends what was pressed to the track that it was pressed on, when another is opened', async () => {
  const store = await opened()
  server.answers.push(track(2), offsets(0), track(7, {}, 'u'), offsets(0))
  const forget = noteWaiting(() => {
    forget()
    return store.send({ kind: 'put_voice', voice: [], why: 'pressed' })
  })
  await store.open('u')
  expect(store.track!.id).toBe('u')
  expect(server.calls[0]!.body).toMatchObject({ version: 1, command: { why: 'pressed' } })
  expect(server.calls.filter((c) => c.body)).toHaveLength(1)
})

const last = () => server.calls.filter((c) => c.body).at(-1)!

describe('the track whose grid is open', () => {
  it('has a grid to count by and how far the onsets lie from it', async () => {
    const store = await opened()
    expect(store.beats!.timeAt(2)).toBe(2)
    expect(store.offsets).toEqual(offsets(0))
  })

  it('sends each change on the version of the one before, and measures again after it', async () => {
    const store = await opened()
    server.answers.push(track(2), offsets(5), track(3), offsets(6))
    await store.send({ kind: 'slide', by_s: 0.01 })
    await flushPromises()
    expect(store.offsets).toEqual(offsets(5))
    await store.snap({ beat: 4 })
    await flushPromises()
    expect(server.calls.filter((c) => c.body).map((c) => c.body!.version)).toEqual([1, 2])
    expect(store.offsets).toEqual(offsets(6))
  })

  it('does not use offsets that a newer change has overtaken', async () => {
    const store = await opened()
    let late: (answer: unknown) => void = () => {}
    server.answers.push(track(2), new Promise((answer) => (late = answer)), track(3), offsets(6))
    await Promise.all([store.send({ kind: 'slide', by_s: 0.01 }), store.send({ kind: 'slide', by_s: 0.01 })])
    await flushPromises()
    late(offsets(5))
    await flushPromises()
    expect(store.track!.version).toBe(3)
    expect(store.offsets).toEqual(offsets(6))
  })

  it('has none where an older analysis kept none, and says why a change was refused', async () => {
    const store = useMarkup()
    server.answers.push(track(1), new ApiError('analysed by an older version', 422))
    await store.open('t')
    await flushPromises()
    expect(store.offsets).toBeUndefined()
    server.answers.push(new ApiError('No grid yet.', 422))
    expect(await store.follow(1)).toBe(false)
    expect(told).toEqual(['No grid yet.'])
  })

  it('looks again when it was changed elsewhere, and follows news of itself alone', async () => {
    const store = await opened(5)
    server.answers.push(new ApiError('changed elsewhere', 409, 7), track(7, { checked: true }), offsets(1))
    expect(await store.undo()).toBe(false)
    expect(store.track).toMatchObject({ version: 7, markup: { checked: true } })
    await flushPromises()
    server.calls.length = 0
    await store.heard('other', 99)
    await store.heard('t', 7)
    expect(server.calls).toEqual([])
  })

  it('tells a track that is gone from one that could not be fetched', async () => {
    const store = useMarkup()
    server.answers.push(new ApiError('gone', 404))
    await store.open('t')
    expect(store.missing).toBe(true)
    server.answers.push(new ApiError('no answer', 0))
    await store.open('t')
    expect([store.missing, store.failure]).toEqual([false, 'no answer'])
  })

  it('takes back one part of what the analysis found', async () => {
    const store = await opened()
    server.answers.push(track(2), offsets(0))
    await store.backToAnalysed('voice')
    expect(last()).toEqual({
      path: '/api/tracks/{track_id}/markup/analysed',
      body: { version: 1, facet: 'voice' },
    })
  })
})

describe('the actions on a grid', () => {
  async function pressed(key: string, at = 3.1, changes: object = {}) {
    await opened(1, changes)
    server.answers.push(track(2), offsets(0))
    await useGridActions(ref(at), ref({ low: 60, high: 200 }))
      .byKey.get(key)!
      .run()
    return last().body as { command?: Record<string, unknown> } & Record<string, unknown>
  }

  it('have a key each, and no two the same', async () => {
    await opened()
    const { byId, byKey } = useGridActions(ref(0), ref({ low: 60, high: 200 }))
    expect(byKey.size).toBe(Object.keys(byId).length)
  })

  it.each([
    [',', { kind: 'slide', by_s: -0.001 }],
    ['>', { kind: 'slide', by_s: 0.01 }],
    [']', { kind: 'slide', by_s: 0.5 }],
    ['b', { kind: 'count_from', beat: 4 }],
    ['f', { kind: 'first_of_bar', beat: 4 }],
    ['h', { kind: 'scale_tempo', factor: 0.5 }],
    ['r', { kind: 'round_tempo', about_beat: 4 }],
    ['a', { kind: 'add_anchor', beat: 4 }],
    ['c', { kind: 'mark_checked', checked: true }],
  ])('%s does it at the line nearest to the cursor', async (key, command) => {
    expect((await pressed(key)).command).toEqual(command)
  })

  it.each([
    ['s', { beat: 4, at_s: 3.1 }],
    ['e', { beat: 4, at_s: 3.1, range: { low: 60, high: 200 } }],
    ['w', { every: 1 }],
    ['W', { every: 4 }],
    ['z', { facet: 'grid' }],
  ])('%s has the server measure', async (key, asked) => {
    expect(await pressed(key)).toMatchObject(asked)
  })

  it('mean the line where the cursor is as good as on it', async () => {
    expect((await pressed('s', 3.015)).at_s).toBeUndefined()
    setActivePinia(createPinia())
    const { kind, by_s } = (await pressed('v', 3.1)).command!
    expect([kind, by_s]).toEqual(['slide', expect.closeTo(0.1, 9)])
  })

  it('take an anchor away where there is one, and a check where it is set', async () => {
    expect((await pressed('a', 1.02)).command).toEqual({ kind: 'remove_anchor', beat: 0 })
    setActivePinia(createPinia())
    expect((await pressed('c', 1, { checked: true })).command).toEqual({
      kind: 'mark_checked',
      checked: false,
    })
  })
})
