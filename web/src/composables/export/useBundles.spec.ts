import { beforeEach, describe, expect, it, vi } from 'vitest'

const server = await vi.hoisted(async () => (await import('../../tests/server')).pretendServer())
vi.mock('../../api/client', () => server.client)
const told: string[] = []
vi.mock('ant-design-vue', () => ({
  message: { error: (e: { content: string }) => told.push(e.content), success: () => undefined },
}))
const { ApiError } = await import('../../api/client')
const { toldOfJob } = await import('../page/jobs')
const { useBundleOpening } = await import('./useBundles')

const opening = (state: string, more: object = {}) => ({ job: { id: 'j1', state, progress: 0.5, error: null }, mix_id: null, ...more }) // prettier-ignore
const file = new File(['zip'], 'night.zip')

describe('a bundle from elsewhere', () => {
  const bundle = useBundleOpening()

  beforeEach(async () => {
    server.answers.length = 0
    await bundle.leave()
    server.calls.length = told.length = 0
    vi.useFakeTimers()
  })

  it('is looked at first, and opened with what is taken from it', async () => {
    server.answers.push({ id: 'b1', tracks: [] })
    await bundle.bring(file)
    expect(bundle.arrived.value?.id).toBe('b1')
    server.answers.push(
      opening('waiting'),
      opening('running'),
      opening('running'),
      opening('done', { mix_id: 'm9' }),
    )
    const opened = bundle.open(['t1'])
    await vi.advanceTimersByTimeAsync(600)
    expect(bundle.share.value).toBe(0.5)
    await toldOfJob('another')
    await toldOfJob('j1')
    await vi.advanceTimersByTimeAsync(0)
    expect(server.answers).toHaveLength(1)
    await toldOfJob()
    expect(await opened).toBe('m9')
    expect(server.calls[1]).toMatchObject({
      path: '/api/arrived-bundles/{bundle_id}/open',
      body: { take: ['t1'] },
    })
    expect([bundle.arrived.value, bundle.share.value, told]).toEqual([undefined, undefined, []])
  })

  it('that cannot be used is told, and nothing is asked', async () => {
    server.answers.push(new ApiError('‘night.zip’ is no whole bundle.', 409))
    await bundle.bring(file)
    expect(told).toEqual(['‘night.zip’ is no whole bundle.'])
    expect([bundle.arrived.value, bundle.bringing.value]).toEqual([undefined, false])
  })

  it('whose opening fails says why and can be tried again', async () => {
    server.answers.push({ id: 'b1', tracks: [] })
    await bundle.bring(file)
    const failed = { id: 'j1', state: 'failed', progress: 0.2, error: 'It is damaged.' }
    server.answers.push(opening('waiting'), { job: failed, mix_id: null })
    const opened = bundle.open([])
    await vi.advanceTimersByTimeAsync(600)
    expect(await opened).toBeUndefined()
    expect(told).toEqual(['It is damaged.'])
    expect(bundle.arrived.value?.id).toBe('b1')
  })

  it('is thrown away when another comes', async () => {
    server.answers.push({ id: 'b1', tracks: [] })
    await bundle.bring(file)
    server.answers.push(null, { id: 'b2', tracks: [] })
    await bundle.bring(file)
    expect(server.calls.map((c) => c.path)).toEqual([
      '/api/arrived-bundles',
      '/api/arrived-bundles/{bundle_id}',
      '/api/arrived-bundles',
    ])
    expect(bundle.arrived.value?.id).toBe('b2')
  })
})
