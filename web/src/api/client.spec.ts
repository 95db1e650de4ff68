import { beforeEach, describe, expect, it, vi } from 'vitest'

const fetched = vi.fn<(request: Request) => Promise<Response>>()
vi.stubGlobal('fetch', fetched)
// The client takes hold of `fetch` when it is made.
const { api, data, ApiError } = await import('./client')

const json = (status: number, body: unknown, type = 'application/json') =>
  new Response(JSON.stringify(body), { status, headers: { 'content-type': type } })

const problem = (status: number, more: object) =>
  json(status, { type: 'about:blank', title: 'T', status, ...more }, 'application/problem+json')

const undo = () =>
  data(
    api.POST('/api/mixes/{mix_id}/undo', {
      params: { path: { mix_id: 'a/b' } },
      body: { version: 3 },
    }),
  )

beforeEach(() => {
  fetched.mockReset()
})

describe('the client', () => {
  it('asks in the form that the API is described in, and gives the data of the answer', async () => {
    fetched.mockResolvedValue(json(200, { id: 'm', version: 4 }))
    await expect(undo()).resolves.toMatchObject({ version: 4 })
    const request = fetched.mock.calls[0]![0]
    expect(request.method).toBe('POST')
    expect(new URL(request.url).pathname).toBe('/api/mixes/a%2Fb/undo')
    expect(await request.json()).toEqual({ version: 3 })
  })

  it('throws what a problem says, with the version of what has moved on', async () => {
    fetched.mockResolvedValue(problem(409, { detail: 'It was changed elsewhere.', version: 7 }))
    const error = await undo().catch((e: unknown) => e)
    expect(error).toBeInstanceOf(ApiError)
    expect(error).toMatchObject({ message: 'It was changed elsewhere.', status: 409, version: 7 })
  })

  it('says so when an answer is no problem in words', async () => {
    fetched.mockResolvedValue(new Response('<h1>Bad gateway</h1>', { status: 502 }))
    await expect(undo()).rejects.toMatchObject({
      status: 502,
      message: 'The server answered with 502 and no reason.',
    })
  })

  it('says that the application does not answer', async () => {
    fetched.mockRejectedValue(new TypeError('Failed to fetch'))
    const error = await undo().catch((e: unknown) => e)
    expect(error).toBeInstanceOf(ApiError)
    expect(error).toMatchObject({ status: 0, message: expect.stringContaining('does not answer') })
  })
})
