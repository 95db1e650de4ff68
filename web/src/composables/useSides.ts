import { computed, type Ref } from 'vue'
import type { Cue, Entry, PencilledCue, VoiceSpan } from '../api/types'
import { nameOf } from '../time/cues'
import { EntryClock } from '../time/entryClock'
import { useGrids } from './useGrids'

/** A beat of an entry that a drag catches on, and what lies there. */
export interface Catch {
  beat: number
  name: string
}

/** One side of a transition as it is drawn: its entry, where its beats lie, and what lies on them. */
export interface TransitionSide {
  entry: Entry
  clock: EntryClock
  voice: VoiceSpan[]
  /** In beats of the track, as its cues are counted. */
  cues: Cue[]
  pencilled: PencilledCue[]
  /** In beats of the entry. */
  catches: Catch[]
}

/** Both sides of a transition. They are there at once; what needs their grids follows when these have come. */
export function useSides(outgoing: Ref<Entry | undefined>, incoming: Ref<Entry | undefined>) {
  const grids = useGrids(computed(() => [outgoing.value, incoming.value]))

  function sideOf(entry: Entry | undefined): TransitionSide | undefined {
    if (!entry) return undefined
    const track = grids.value.get(entry.track_id)
    const cues = track?.cues ?? []
    const catches = [
      ...cues.map((c) => ({ beat: c.at * entry.count, name: nameOf(c) })),
      ...(track?.sections ?? []).map((s) => ({ beat: s.start * entry.count, name: s.name || s.kind })),
    ]
    return {
      entry,
      clock: EntryClock.of(entry, track?.grid),
      voice: track?.voice ?? [],
      cues,
      pencilled: (track?.pencilled_cues ?? []).filter((p) => p.cue.role !== 'plain'),
      catches,
    }
  }

  return {
    outgoing: computed(() => sideOf(outgoing.value)),
    incoming: computed(() => sideOf(incoming.value)),
  }
}
