import { computed, type Ref } from 'vue'
import type { Entry, VoiceSpan } from '../api/types'
import { EntryClock } from '../time/entryClock'
import { useGrids } from './useGrids'

/** One side of a transition as it is drawn: its entry, where its beats lie, and where somebody sings. */
export interface TransitionSide {
  entry: Entry
  clock: EntryClock
  voice: VoiceSpan[]
}

/** Both sides of a transition. They are there at once; what needs their grids follows when these have come. */
export function useSides(outgoing: Ref<Entry | undefined>, incoming: Ref<Entry | undefined>) {
  const grids = useGrids(computed(() => [outgoing.value, incoming.value]))

  function sideOf(entry: Entry | undefined): TransitionSide | undefined {
    if (!entry) return undefined
    const track = grids.value.get(entry.track_id)
    return { entry, clock: EntryClock.of(entry, track?.grid), voice: track?.voice ?? [] }
  }

  return {
    outgoing: computed(() => sideOf(outgoing.value)),
    incoming: computed(() => sideOf(incoming.value)),
  }
}
