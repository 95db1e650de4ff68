import { ApiError, asError } from '../api/client'
import type { Problem } from '../api/types'

const BYTES_PER_FRAME = 8

/** Frames of interleaved stereo as they arrive; a frame that a network chunk splits is put together again. */
export async function* frames(url: string, signal: AbortSignal): AsyncGenerator<Float32Array> {
  let response: Response
  try {
    response = await fetch(url, { signal })
  } catch (error) {
    if (signal.aborted) return
    throw new ApiError(`The sound cannot be fetched: ${(error as Error).message}`, 0)
  }
  if (!response.ok || !response.body) {
    const problem = (await response.json().catch(() => undefined)) as Problem | undefined
    throw asError(problem, response.status)
  }
  const reader = response.body.getReader()
  let rest = new Uint8Array(0)
  try {
    for (;;) {
      const { done, value } = await reader.read()
      if (done) return
      const bytes = new Uint8Array(rest.length + value.length)
      bytes.set(rest)
      bytes.set(value, rest.length)
      const whole = Math.floor(bytes.length / BYTES_PER_FRAME) * BYTES_PER_FRAME
      rest = bytes.slice(whole)
      if (whole) yield new Float32Array(bytes.buffer.slice(0, whole))
    }
  } catch (error) {
    if (!signal.aborted) throw new ApiError(`The sound broke off: ${(error as Error).message}`, 0)
  } finally {
    reader.cancel().catch(() => undefined)
  }
}
