import type { Cue, Entry, SuggestedCue, VoiceSpan } from '../api/types'
import type { EntryClock } from './entryClock'

/** A beat of an entry that a drag catches on, and what lies there. */
export interface Catch {
  beat: number
  name: string
}

/** One side of a transition as it is drawn: its entry, where its beats lie, and what lies on them. */
export interface TransitionSide {
  entry: Entry
  clock: EntryClock
  /** Where somebody sings, in beats of the entry. */
  voice: VoiceSpan[]
  /** In beats of the track, as its cues are counted. */
  cues: Cue[]
  suggested: SuggestedCue[]
  /** In beats of the entry. */
  catches: Catch[]
}
