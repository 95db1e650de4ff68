import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import { useTimeLeft } from './useTimeLeft'

describe('how long work will take', () => {
  const scope = effectScope()
  beforeEach(() => void vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval', 'performance'] }))
  afterEach(() => {
    scope.stop()
    vi.useRealTimers()
  })

  it('is told by how fast it went lately, and not before it can be told', async () => {
    const left = ref(1000)
    const time = effectScope().run(() => useTimeLeft(left))!
    const goOn = async (seconds: number, speed: number) => {
      for (let s = 0; s < seconds; s += 2) {
        vi.advanceTimersByTime(2000)
        left.value -= 2 * speed
        await nextTick()
      }
    }
    await goOn(4, 10)
    expect(time.value).toBeUndefined()
    await goOn(16, 10)
    expect(time.value).toBeCloseTo(80, 0)
    // Something else runs beside it: soon that is known.
    await goOn(80, 2)
    expect(Math.abs(time.value! / (left.value / 2) - 1)).toBeLessThan(0.05)
    left.value += 500
    await nextTick()
    expect(time.value).toBeUndefined()
    left.value = 0
    await nextTick()
    expect(time.value).toBeUndefined()
  })
})
