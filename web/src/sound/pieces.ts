import type { Entry, Mix, PlannedTransition, Track } from '../api/types'
import { RATE } from './player'
import type { Piece } from './piece'
import { Clock } from '../time/clock'
import type { BeatGrid } from '../time/grid'

/** Beats that are heard before and after an overlap. */
const AROUND_BEATS = 8
const LONGEST_KEPT_S = 240

export type Listenable = Pick<Track, 'id' | 'title' | 'artist' | 'duration_s'>
export type Heard = 'both' | 'outgoing' | 'incoming'

/** A track by itself, with a click on its beats where a level in dB for one is given. */
export function trackPiece(track: Listenable, clickDb?: number): Piece {
  return {
    kind: 'track',
    id: track.id,
    label: track.artist ? `${track.title} – ${track.artist}` : track.title,
    start: 0,
    end: Math.floor(track.duration_s * RATE),
    url: (from) => `/api/tracks/${track.id}/audio?start=${from}${clicking(clickDb)}`,
    loops: false,
  }
}

/** A span of a track, in seconds, to be played round and round. */
export function roundPiece(track: Listenable, from: number, to: number, clickDb?: number): Piece {
  const whole = trackPiece(track, clickDb)
  const start = Math.min(Math.max(0, Math.round(from * RATE)), whole.end - 1)
  const end = Math.min(whole.end, Math.max(Math.round(to * RATE), start + 1))
  return {
    ...whole,
    start,
    end,
    url: (at) => `/api/tracks/${track.id}/audio?start=${at}&end=${end}&back_to=${start}${clicking(clickDb)}`,
    loops: true,
    wraps: true,
  }
}

/** Some bars of a track, from the one in which a moment lies, to be played round and round. */
export function loopPiece(
  track: Listenable,
  beats: BeatGrid,
  at: number,
  bars: number,
  clickDb?: number,
): Piece {
  const bar = beats.bars.barOf(beats.beatAt(at))
  const edge = (n: number) => beats.timeAt(beats.bars.beatOf(n))
  return roundPiece(track, edge(bar), edge(bar + bars), clickDb)
}

function clicking(clickDb: number | undefined): string {
  return clickDb === undefined ? '' : `&click_db=${clickDb}`
}

/** The mix from its start to its end. */
export function mixPiece(mix: Mix): Piece {
  return {
    kind: 'mix',
    id: mix.id,
    label: mix.name,
    start: 0,
    end: mix.plan.frames,
    url: (from) => `/api/mixes/${mix.id}/audio?start=${from}`,
    loops: false,
    again: mixPiece,
  }
}

/** A span of a mix in seconds, or of a trial of it; of one entry or layer alone where its id is given. */
export function spanPiece(
  mix: Pick<Mix, 'id' | 'plan'>,
  startS: number,
  endS: number,
  label: string,
  { trial, only }: { trial?: string; only?: string } = {},
): Piece {
  const start = Math.max(0, Math.round(startS * RATE))
  const end = Math.min(mix.plan.frames, Math.round(endS * RATE))
  const as = trial === undefined ? '' : `&trial=${trial}`
  const alone = only === undefined ? '' : `&entry=${only}`
  return {
    kind: 'mix',
    id: trial === undefined ? mix.id : `${mix.id} tried as ${trial}`,
    label,
    start,
    end,
    url: (from) => `/api/mixes/${mix.id}/audio?start=${from}&end=${end}${alone}${as}`,
    loops: end - start < LONGEST_KEPT_S * RATE,
  }
}

/** What is heard of a transition: one side alone or both, and how much around it. */
export interface TransitionHearing {
  heard?: Heard
  clickDb?: number
  /** A trial of the mix instead of the mix. */
  trial?: string
  /** Beats before and after. */
  around?: number
  /** Only where the one gives way to the other. */
  handOverOnly?: boolean
  /** How much softer it is, in dB below 0, so that versions can be compared at one loudness. */
  gainDb?: number
}

/** A transition with some beats around it. */
export function transitionPiece(
  mix: Pick<Mix, 'id' | 'plan'>,
  clock: Clock,
  transition: PlannedTransition,
  hearing: TransitionHearing = {},
): Piece {
  const { heard = 'both', clickDb, trial, around = AROUND_BEATS, handOverOnly, gainDb } = hearing
  const out = mix.plan.entries[transition.index]!
  const into = mix.plan.entries[transition.index + 1]!
  const lead = transition.transition.lead ?? 0
  const [first, last] = handOverOnly
    ? [transition.hand_over_beat, transition.hand_over_beat]
    : [transition.start_beat - lead, transition.end_beat]
  const start = frameAt(clock, first - around)
  const end = Math.min(mix.plan.frames, frameAt(clock, last + around))
  const only = heard === 'both' ? '' : `&entry=${(heard === 'outgoing' ? out : into).id}`
  const as = trial === undefined ? '' : `&trial=${trial}`
  const softer = gainDb ? `&gain_db=${gainDb.toFixed(2)}` : ''
  return {
    kind: 'mix',
    id: trial === undefined ? mix.id : `${mix.id} tried as ${trial}`,
    label: labelOf(out, into, heard),
    start,
    end,
    url: (from) =>
      `/api/mixes/${mix.id}/audio?start=${from}&end=${end}${only}${clicking(clickDb)}${as}${softer}`,
    transition: transition.index,
    loops: end - start < LONGEST_KEPT_S * RATE,
    again: (now) => {
      const { out_id, in_id } = transition.transition
      const here = now.plan.transitions.find(({ transition: t }) => t.out_id === out_id && t.in_id === in_id)
      return here && transitionPiece(now, new Clock(now.plan.clocks[0]!), here, hearing)
    },
  }
}

function frameAt(clock: Clock, beat: number): number {
  return Math.max(0, Math.round(clock.timeAt(beat) * RATE))
}

function labelOf(out: Entry, into: Entry, heard: Heard): string {
  if (heard === 'outgoing') return `${out.title}, outgoing`
  if (heard === 'incoming') return `${into.title}, incoming`
  return `${out.title} → ${into.title}`
}
