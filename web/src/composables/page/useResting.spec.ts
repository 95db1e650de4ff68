import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { settleAll } from '../../stores/resting'
import { useResting } from './useResting'

/** A number that presses raise, and a server that answers when it is let. */
function counting() {
  const resting = useResting<number>()
  const state = { stored: 0, sent: [] as number[], answers: [] as (() => void)[] }
  const shown = () => resting.draft.value ?? state.stored
  function press() {
    const to = shown() + 1
    resting.put(to, () => {
      state.sent.push(to)
      return new Promise((done) => state.answers.push(() => ((state.stored = to), done(true))))
    })
  }
  return { resting, state, shown, press }
}

const settle = () => vi.advanceTimersByTimeAsync(250)

describe('what is pressed several times in a row', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  it('counts every press, shows each at once, and sends one step', async () => {
    const { state, shown, press } = counting()
    for (const n of [1, 2, 3, 4]) {
      press()
      expect(shown()).toBe(n)
      await vi.advanceTimersByTimeAsync(30)
    }
    expect(state.sent).toEqual([])
    await settle()
    expect(state.sent).toEqual([4])
  })

  it('drops nothing of what is pressed while a change is on its way', async () => {
    const { state, shown, press } = counting()
    press()
    await settle()
    for (let i = 0; i < 3; i++) press()
    expect(shown()).toBe(4)
    state.answers[0]!()
    await vi.advanceTimersByTimeAsync(10)
    expect(shown()).toBe(4)
    await settle()
    expect(state.sent).toEqual([1, 4])
    state.answers[1]!()
    await vi.advanceTimersByTimeAsync(10)
    expect([shown(), state.stored]).toEqual([4, 4])
  })

  it('is sent at once before a step back, and when something else is looked at', async () => {
    const { resting, state, press } = counting()
    press()
    press()
    void settleAll()
    expect(state.sent).toEqual([2])
    press()
    void resting.leave()
    expect(state.sent).toEqual([2, 3])
    expect(resting.draft.value).toBeUndefined()
    await settle()
    expect(state.sent).toEqual([2, 3])
  })
})
