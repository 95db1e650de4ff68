import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Gesture, gestureNow } from './gesture'

describe('presses in a row', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  const sent = (gesture: Gesture) => gesture.send(gestureNow)

  it('are one gesture until one rests or does something else', () => {
    const gesture = new Gesture()
    gesture.press()
    const first = sent(gesture)
    expect(first).toBeTruthy()
    vi.advanceTimersByTime(900)
    gesture.press()
    vi.advanceTimersByTime(900)
    gesture.press()
    expect(sent(gesture)).toBe(first)
    vi.advanceTimersByTime(1100)
    gesture.press()
    const second = sent(gesture)
    expect(second).not.toBe(first)
    gesture.end()
    gesture.press()
    expect(sent(gesture)).not.toBe(second)
  })

  it('leave what another sends, and what comes after, as it is', () => {
    const [outer, inner] = [new Gesture(), new Gesture()]
    outer.press()
    inner.press()
    const of = outer.send(() => [gestureNow(), sent(inner), gestureNow()])
    expect(of[0]).toBe(of[2])
    expect(of[1]).not.toBe(of[0])
    expect(gestureNow()).toBeUndefined()
  })
})
