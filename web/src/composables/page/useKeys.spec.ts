import { afterEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { listenForKeys, useKeys, useKeySets } from './useKeys'

let scope = effectScope()

function page(html: string, keys: Record<string, () => void>, title = 'View') {
  document.body.innerHTML = html
  scope = effectScope()
  scope.run(() => {
    listenForKeys()
    useKeys(
      title,
      Object.entries(keys).map(([key, run]) => ({ keys: [key], label: `does ${key}`, run })),
    )
  })
}

function press(key: string, at = 'body', more: KeyboardEventInit = {}) {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more })
  document.querySelector(at)!.dispatchEvent(event)
  return event
}

afterEach(() => scope.stop())

describe('the keys of a view', () => {
  it('do what they say, leave text fields alone, and give space to the playing', () => {
    const play = vi.fn()
    const step = vi.fn()
    const undo = vi.fn()
    page('<button>x</button><input id="text" /><div id="row" role="row"><i></i></div>', {
      ' ': play,
      ArrowLeft: step,
      'ctrl+z': undo,
    })
    expect(press(' ', 'button').defaultPrevented).toBe(true)
    expect(play).toHaveBeenCalledTimes(1)
    press(' ', '#text')
    expect(play).toHaveBeenCalledTimes(1)
    press('ArrowLeft', '#row i')
    expect(step).not.toHaveBeenCalled()
    press('ArrowLeft')
    expect(step).toHaveBeenCalledTimes(1)
    press('z', 'button', { ctrlKey: true })
    press('z', '#text', { ctrlKey: true })
    expect(undo).toHaveBeenCalledTimes(1)
    expect(useKeySets().value.map((s) => s.title)).toEqual(['View'])
  })

  it('know a digit with shift on any keyboard, and the digit itself where shift makes it', () => {
    const view = vi.fn()
    const cue = vi.fn()
    page('', { 'shift+3': view, '3': cue })
    press('#', 'body', { code: 'Digit3', shiftKey: true })
    press('§', 'body', { code: 'Digit3', shiftKey: true })
    expect([view, cue].map((f) => f.mock.calls.length)).toEqual([2, 0])
    press('3', 'body', { code: 'Digit3', shiftKey: true })
    press('3', 'body', { code: 'Digit3' })
    expect([view, cue].map((f) => f.mock.calls.length)).toEqual([2, 2])
  })

  it('are the same with Caps Lock on, and with shift where that means nothing else', () => {
    const loop = vi.fn()
    const hear = vi.fn()
    const tag = vi.fn()
    page('', { l: loop, L: hear, t: tag })
    press('L')
    press('l', 'body', { shiftKey: true })
    press('T', 'body', { shiftKey: true })
    expect([loop, hear, tag].map((f) => f.mock.calls.length)).toEqual([1, 1, 1])
  })
})
