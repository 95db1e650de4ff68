import { newId } from '../time/cues'

/** Presses that follow each other within this belong together, however late the server or the page is. */
const TOGETHER_MS = 1000

let current: string | undefined

/** The gesture that what is sent now belongs to. The server makes one step to undo of all that belongs to one. */
export const gestureNow = () => current

/** Presses in a row, of a key, a wheel or a small button, that mean one change. */
export class Gesture {
  private id = ''
  private last = -Infinity

  /** Note a press; one long after the others starts again. */
  press() {
    const now = performance.now()
    if (now - this.last > TOGETHER_MS) this.id = newId()
    this.last = now
  }

  /** What follows is another change. */
  end() {
    this.last = -Infinity
  }

  /** Send something as a part of this: what `how` sends before it waits for anything. */
  send<T>(how: () => T): T {
    const outer = current
    current = this.id
    try {
      return how()
    } finally {
      current = outer
    }
  }
}
