import { afterEach, describe, expect, it, vi } from 'vitest'
import { ApiError } from '../api/client'
import { frames } from './stream'

const samples = Float32Array.from({ length: 4000 }, (_, i) => i / 7)

function answer(sizes: number[]): Response {
  const bytes = new Uint8Array(samples.buffer)
  let at = 0
  const body = new ReadableStream({
    pull(controller) {
      const size = sizes.shift() ?? bytes.length
      if (at >= bytes.length) return controller.close()
      controller.enqueue(bytes.slice(at, at + size))
      at += size
    },
  })
  return new Response(body)
}

async function all(stream: AsyncGenerator<Float32Array>): Promise<number[]> {
  const found: number[] = []
  for await (const piece of stream) {
    expect(piece.length % 2).toBe(0)
    found.push(...piece)
  }
  return found
}

afterEach(() => vi.unstubAllGlobals())

describe('sound that arrives over the network', () => {
  it('is put together again wherever the network splits it', async () => {
    vi.stubGlobal('fetch', () => Promise.resolve(answer([1, 2, 5, 8, 9, 3, 100, 4, 4, 1111])))
    expect(await all(frames('/x', new AbortController().signal))).toEqual([...samples])
  })

  it('says what the server says is wrong', async () => {
    const problem = new Response(JSON.stringify({ detail: 'The file has gone.' }), { status: 422 })
    vi.stubGlobal('fetch', () => Promise.resolve(problem))
    await expect(all(frames('/x', new AbortController().signal))).rejects.toThrow('The file has gone.')
  })

  it('says so when nobody answers', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('refused')))
    await expect(all(frames('/x', new AbortController().signal))).rejects.toBeInstanceOf(ApiError)
  })

  it('ends quietly when it is not wanted any more', async () => {
    const abort = new AbortController()
    abort.abort()
    vi.stubGlobal('fetch', () => Promise.reject(new DOMException('aborted', 'AbortError')))
    expect(await all(frames('/x', abort.signal))).toEqual([])
  })
})
