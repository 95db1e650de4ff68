/** Gestures of several presses that are shown already and not sent yet. */
const waiting = new Set<() => Promise<unknown>>()

/** Note what would send a gesture, so that what must come after it can have it sent now; gives what forgets it. */
export function noteWaiting(send: () => Promise<unknown>): () => void {
  waiting.add(send)
  return () => void waiting.delete(send)
}

/** Send all that was only shown: before a step back, and before the page goes. */
export async function settleAll(): Promise<void> {
  // What is pressed while that is on its way is sent as well.
  while (waiting.size) await Promise.all([...waiting].map((send) => send()))
}
