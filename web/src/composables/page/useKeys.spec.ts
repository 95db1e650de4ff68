import { afterEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { heard } from '../../sound/controller'
import { changeKey, changePad, resetAllKeys } from './keyChanges'
import { keyFor, listenForKeys, useKeys, useKeySets, type Press } from './useKeys'

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

afterEach(() => {
  scope.stop()
  resetAllKeys()
})

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

  it('are those that the user has set, and what they do is told of the key that they come with', () => {
    const pressed: string[] = []
    document.body.innerHTML = ''
    scope = effectScope()
    scope.run(() => {
      listenForKeys()
      const run = ({ key, shiftKey }: Press) => pressed.push(shiftKey ? `shift ${key}` : key)
      useKeys('View', [{ keys: ['ArrowLeft', 'ArrowRight'], label: 'moves', run }])
      useKeys('Other', [{ keys: ['j'], label: 'other', run: () => pressed.push('other') }])
    })
    changeKey({ title: 'View', key: 'ArrowLeft' }, 'q')
    press('q')
    press('Q', 'body', { shiftKey: true })
    press('ArrowLeft')
    press('ArrowRight')
    expect(pressed).toEqual(['ArrowLeft', 'shift ArrowLeft', 'ArrowRight'])
    expect([keyFor('ArrowLeft'), keyFor('ArrowRight'), keyFor('j')]).toEqual(['Q', '→', 'J'])
    changeKey({ title: 'View', key: 'ArrowLeft' }, 'ArrowLeft')
    press('ArrowLeft')
    expect(pressed).toHaveLength(4)
  })

  it('may be pads of a controller as well, held as keys are, and each does one thing', () => {
    const log: string[] = []
    page('<i></i>', { ' ': () => log.push('play') })
    scope.run(() =>
      useKeys('Hear', [
        { keys: ['o'], label: 'hears', run: () => log.push('down'), release: () => log.push('up') },
      ]),
    )
    changePad({ title: 'View', key: ' ' }, 36)
    changePad({ title: 'Hear', key: 'o' }, 40)
    heard(new Uint8Array([0x99, 36, 100]))
    heard(new Uint8Array([0x89, 36, 0]))
    heard(new Uint8Array([0x90, 40, 1]))
    heard(new Uint8Array([0x90, 40, 0]))
    heard(new Uint8Array([0xb0, 36, 100]))
    expect(log).toEqual(['play', 'down', 'up'])
    changePad({ title: 'Hear', key: 'o' }, 36)
    heard(new Uint8Array([0x90, 36, 9]))
    expect(log.slice(3)).toEqual(['down'])
    heard(new Uint8Array([0x80, 36, 9]))
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
