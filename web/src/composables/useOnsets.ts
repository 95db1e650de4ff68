import { shallowReactive } from 'vue'

/** Onset frames in a second; as `analysis/features.py` stores them. */
export const ONSET_RATE = 44_100 / 128
const MOST_KEPT = 6

/** Two bytes a frame: low sounds, all sounds. */
export type Onsets = Uint8Array

const kept = shallowReactive(new Map<string, Onsets | 'none'>())
const asked = new Set<string>()

/** Onset strengths of a track, ‘none’ where an older analysis kept none, undefined while they are fetched. */
export function onsetsOf(trackId: string): Onsets | 'none' | undefined {
  const found = kept.get(trackId)
  if (!found && !asked.has(trackId)) void load(trackId)
  return found
}

/** Forget what was kept of a track, after it was analysed again. */
export function forgetOnsets(trackId: string) {
  kept.delete(trackId)
}

async function load(trackId: string) {
  asked.add(trackId)
  try {
    const response = await fetch(`/api/tracks/${trackId}/onsets`)
    kept.set(trackId, response.ok ? new Uint8Array(await response.arrayBuffer()) : 'none')
    if (kept.size > MOST_KEPT) kept.delete(kept.keys().next().value!)
  } catch {
    // The page tells that the server does not answer; the next look asks again.
  } finally {
    asked.delete(trackId)
  }
}
