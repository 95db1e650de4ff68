/**
 * A controller: whatever has something to turn. A MIDI controller that the browser knows, or the one on the screen; both
 * say which of their controls was moved, and where to, from 0 to 1.
 */
export type Turned = (control: number, value: number) => void

const CONTROL_CHANGE = 0xb0
const MOST = 127

const listeners = new Set<Turned>()

/** Be told of every move, until the function that is returned is called. */
export function onTurned(turned: Turned): () => void {
  listeners.add(turned)
  return () => listeners.delete(turned)
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

/** What a MIDI message means: a control change of any channel (MIDI 1.0, table 2). */
export function heard([status, control, value]: Uint8Array) {
  if (status === undefined || control === undefined || value === undefined) return
  if ((status & 0xf0) === CONTROL_CHANGE) turn(control, value / MOST)
}
