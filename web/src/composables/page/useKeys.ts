import { tryOnScopeDispose, useEventListener } from '@vueuse/core'
import { computed, shallowReactive } from 'vue'
import { onStruck } from '../../sound/controller'
import { keyName, namesNow, padName } from './keyChanges'

/** A press, said by the key that its act comes with, whichever key or pad the user has set for it. */
export interface Press {
  key: string
  shiftKey: boolean
  timeStamp: number
}

/** One act by one or more keys, as `KeyboardEvent.key` names them; with `ctrl+` before it where it is held, a digit with `shift+`. */
export interface KeyBinding {
  keys: string[]
  /** What it does, for the list of keys; keys without words are not listed. */
  label?: string
  /** A row of keys that belong together, such as digits: shown so, and not to be changed one by one. */
  shown?: string
  run: (press: Press) => void
  /** For keys that are held: what happens when it is let go. */
  release?: (at: Pick<Press, 'timeStamp'>) => void
}

export interface KeySet {
  /** Where they hold: the name of the view, or of what they are about. */
  title: string
  bindings: KeyBinding[]
}

/** Keys that are down and wait to be let go. */
const held = new Map<string, KeyBinding>()
const sets = shallowReactive<KeySet[]>([])

/** Keys that hold while the calling component is there. Text fields and open menus keep all keys to themselves. */
export function useKeys(title: string, bindings: KeyBinding[]) {
  const set: KeySet = { title, bindings }
  sets.push(set)
  tryOnScopeDispose(() => sets.splice(sets.indexOf(set), 1))
}

/** The keys of undo and redo, for whatever is open. */
export function undoKeys(undo: () => unknown, redo: () => unknown): KeyBinding[] {
  return [
    {
      keys: ['ctrl+z'],
      label: 'Undo; with shift, redo',
      run: (event) => void (event.shiftKey ? redo() : undo()),
    },
    { keys: ['ctrl+y'], label: 'Redo', run: () => void redo() },
  ]
}

/** All keys that hold now, the view's own first. */
export function useKeySets() {
  return computed(() => [...sets].reverse().filter((s) => s.bindings.some((b) => b.label)))
}

/** How the key is called now that this view's act comes with: tooltips name it so. */
export function keyFor(key: string): string {
  const set = [...sets].reverse().find((s) => s.bindings.some((b) => b.keys.includes(key)))
  return keyName(set ? namesNow({ title: set.title, key })[0]! : key)
}

/**
 * The one place where keys and pads are listened for; called once, where the page starts. The set that was added last wins.
 * Space belongs to the playing: a button that was clicked keeps the focus, but not the key.
 */
export function listenForKeys() {
  useEventListener(
    window,
    'keydown',
    (event) => {
      if (event.altKey || event.defaultPrevented || keepsKeys(event)) return
      if (press(namesOf(event), event.code, event, event.repeat)) event.preventDefault()
    },
    { capture: true },
  )
  useEventListener(window, 'keyup', (event) => letGo(event.code, event), { capture: true })
  // A key that is let go in another window is never told of.
  useEventListener(window, 'blur', (event) => [...held.keys()].forEach((code) => letGo(code, event)))
  // Buttons and switches act when space is let go.
  useEventListener(
    window,
    'keyup',
    (event) => void (event.key === ' ' && !keepsKeys(event) && event.preventDefault()),
    {
      capture: true,
    },
  )
  const stop = onStruck((pad, isDown) => {
    const at = { shiftKey: false, timeStamp: performance.now() }
    if (!isDown) letGo(padName(pad), at)
    else if (!isDialogOpen()) press([padName(pad)], padName(pad), at, false)
  })
  tryOnScopeDispose(stop)
}

/** Do what a press means, if it means something; `code` is what tells when it is let go. */
function press(names: string[], code: string, at: Omit<Press, 'key'>, isRepeat: boolean): boolean {
  const found = bindingOf(names)
  if (!found) return false
  const { binding, key } = found
  if (binding.release) {
    if (isRepeat) return true
    held.set(code, binding)
  }
  binding.run({ key, shiftKey: at.shiftKey, timeStamp: at.timeStamp })
  return true
}

function letGo(code: string, at: Pick<Press, 'timeStamp'>) {
  held.get(code)?.release?.(at)
  held.delete(code)
}

function bindingOf(names: string[]): { binding: KeyBinding; key: string } | undefined {
  for (const name of names) {
    for (const { title, bindings } of [...sets].reverse()) {
      for (const binding of bindings) {
        const key = binding.keys.find((k) => namesNow({ title, key: k }).includes(name))
        if (key) return { binding, key }
      }
    }
  }
  return undefined
}

/** What a key may be bound as. A letter is the same with Caps Lock on, and with shift where that means nothing else. */
export function namesOf({ key, code, ctrlKey, metaKey, shiftKey }: KeyboardEvent): string[] {
  const [small, large] = [key.toLowerCase(), key.toUpperCase()]
  if (ctrlKey || metaKey) return [`ctrl+${small}`]
  // What shift makes of a digit is another sign on each keyboard; on some it is what makes the digit.
  const digit = /^Digit(\d)$/.exec(code)?.[1]
  if (shiftKey && digit && key !== digit) return [`shift+${digit}`, key]
  if (key.length > 1 || small === large) return [key]
  return shiftKey ? [large, small] : [small]
}

const TEXT = 'input:not([type=checkbox], [type=radio], [type=range]), textarea, [contenteditable=true]'
const OWN_KEYS = '[role=combobox], [role=listbox], [role=menu], [role=dialog]'
/** What is handled by arrow keys and the like where it has the focus. */
const HANDLED = '[role=slider], [role=row], [data-own-keys]'

/** Whether what has the focus needs the key itself. */
function keepsKeys(event: KeyboardEvent): boolean {
  const at = event.target instanceof Element ? event.target : undefined
  if (!at) return false
  if (isDialogOpen()) return true
  if (at.closest(TEXT)) return true
  // A menu that has just been closed may have the focus for a moment still.
  if (at.closest(OWN_KEYS)?.getClientRects().length) return true
  if (event.key === ' ') return at.matches('[type=checkbox]:focus-visible, [type=radio]:focus-visible')
  if (event.key === 'Enter') return !!at.closest('button, a, [role=button], [role=switch], [type=checkbox]')
  return isMoving(event.key) && !!at.closest(HANDLED)
}

/** Whether something lies over the page and waits for an answer. */
const isDialogOpen = () =>
  [...document.querySelectorAll('[role=dialog]')].some((dialog) => dialog.getClientRects().length)

const isMoving = (key: string) => /^(Arrow|Home$|End$|Page|Delete$|Backspace$|Escape$|\+$|-$)/.test(key)
