/**
 * A controller: whatever has something to turn. A MIDI controller that the browser knows, or the one on the screen; both
 * say which of their controls was moved, and where to, from 0 to 1.
 */
export type Turned = (control: number, value: number) => void

/** A pad or key of a controller that was struck or let go, by its note number. */
export type Struck = (pad: number, isDown: boolean) => void

const NOTE_OFF = 0x80
const NOTE_ON = 0x90
const CONTROL_CHANGE = 0xb0
const MOST = 127

const listeners = new Set<Turned>()
const strikeListeners = new Set<Struck>()

/** Be told of every move, until the function that is returned is called. */
export function onTurned(turned: Turned): () => void {
  listeners.add(turned)
  return () => listeners.delete(turned)
}

/** Be told of every pad that is struck or let go, until the function that is returned is called. */
export function onStruck(struck: Struck): () => void {
  strikeListeners.add(struck)
  return () => strikeListeners.delete(struck)
}

/** Turn a control of the controller on the screen. */
export function turn(control: number, value: number) {
  for (const turned of listeners) turned(control, Math.min(1, Math.max(0, value)))
}

/** Listen to the MIDI controllers there are; false where the browser has none to offer. */
export async function listenToMidi(): Promise<boolean> {
  if (!('requestMIDIAccess' in navigator)) return false
  try {
    const access = await navigator.requestMIDIAccess()
    const listen = () =>
      access.inputs.forEach((input) => (input.onmidimessage = ({ data }) => data && heard(data)))
    access.onstatechange = listen
    listen()
    return true
  } catch {
    return false
  }
}

/** What a MIDI message means: a control change or a note of any channel (MIDI 1.0, table 2); a note of no velocity is let go. */
export function heard([status, control, value]: Uint8Array) {
  if (status === undefined || control === undefined || value === undefined) return
  const kind = status & 0xf0
  if (kind === CONTROL_CHANGE) turn(control, value / MOST)
  if (kind === NOTE_ON || kind === NOTE_OFF)
    for (const struck of strikeListeners) struck(control, kind === NOTE_ON && value > 0)
}
