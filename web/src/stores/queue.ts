import { message } from 'ant-design-vue'
import type { ApiError } from '../api/client'

interface Versioned {
  version: number
}

/**
 * Changes of one thing, sent one after the other, each on the version that the one before it made. A change that is
 * refused is told to the user; where the thing was changed elsewhere, it is looked at again.
 */
export function changeQueue<T extends Versioned>(
  current: () => T | undefined,
  take: (fresh: T) => void,
  reopen: () => Promise<void>,
) {
  let queue: Promise<unknown> = Promise.resolve()

  /** Queue a change; false when it was refused. */
  function change(step: (version: number) => Promise<T>): Promise<boolean> {
    const result = queue.then(async () => {
      const now = current()
      if (!now) return false
      try {
        take(await step(now.version))
        return true
      } catch (error) {
        message.error({ content: (error as Error).message, duration: 6 })
        if ((error as ApiError).version !== undefined) await reopen()
        return false
      }
    })
    queue = result
    return result
  }

  return { change, settled: () => queue }
}
