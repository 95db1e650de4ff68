import type { Cue, CueRole, Loop, SuggestedCue } from '../api/types'
import type { BarLines } from './barLines'
import { BeatGrid } from './grid'

/** What each role is called: on a plate, in lists, and whom a key sets. */
export const ROLES: readonly {
  role: CueRole
  plate: string
  label: string
  /** On a button among others. */
  short: string
  key: string
}[] = [
  { role: 'start', plate: 'start', label: 'Start', short: 'Start', key: 's' },
  { role: 'mix_in', plate: 'in', label: 'Mix-in', short: 'Mix-in', key: 'i' },
  { role: 'mix_out', plate: 'out', label: 'Mix-out', short: 'Mix-out', key: 'o' },
  { role: 'alone_from', plate: 'alone', label: 'Alone from', short: 'Alone', key: 'c' },
  { role: 'plain', plate: '', label: 'Plain cue', short: 'Plain', key: 'p' },
]

export const roleOf = (cue: Pick<Cue, 'role'>) => ROLES.find((r) => r.role === cue.role)!

/** What stands on a cue's plate: its role, its name, or both. */
export function plateOf(cue: Pick<Cue, 'role' | 'name'>): string {
  const role = roleOf(cue).plate
  return [role, cue.name].filter(Boolean).join(' · ') || 'cue'
}

/** A cue by its role and name, in words. */
export function nameOf(cue: Pick<Cue, 'role' | 'name'>): string {
  return cue.name || roleOf(cue).label
}

/** Whether a track may have several cues of a role, of which one is preferred. */
export const hasPreferred = (role: CueRole) => role === 'mix_in' || role === 'mix_out'

/** What a track without a grid is counted by, as on the server. */
export const STAND_IN = new BeatGrid({
  anchors: [{ time_s: 0, beat: 0, ramp: 1 }],
  bpm_before: 120,
  bpm_after: 120,
  beats_per_bar: 4,
  bars_from: [],
})

/** Cues as plant labels: a thin stake on the moment, a small plate with its name. */
export interface Stake {
  cue: Cue
  x: number
  suggested: boolean
  /** Why it is suggested. */
  reason?: string
}

/** The stakes of cues and of suggested ones, at all places where `xsOf` puts their beats. */
export function stakesOf(cues: Cue[], suggested: SuggestedCue[], xsOf: (beat: number) => number[]): Stake[] {
  return [
    ...cues.map((cue) => ({ cue, suggested: false, reason: undefined })),
    ...suggested.map(({ cue, reason }) => ({ cue, suggested: true, reason })),
  ].flatMap((stake) => xsOf(stake.cue.at).map((x) => ({ ...stake, x })))
}

export type Quantum = 'bar' | 'beat' | 'free'

/** The line that was meant at a beat. */
export function meant(beat: number, quantum: Quantum, bars: BarLines): number {
  if (quantum === 'free') return beat
  return quantum === 'bar' ? bars.nearest(beat) : Math.round(beat)
}

export const newId = () => Math.random().toString(36).slice(2, 12)

const LENGTHS_BELOW = [0.25, 0.5, 1]

/** A loop of half or double the length, as far as a loop may be short or long; whole beats from one beat on. */
export function scaled(loop: Loop, factor: 0.5 | 2, perBar: number): Loop {
  const wanted = loop.beats * factor
  const beats =
    wanted < 1
      ? LENGTHS_BELOW.reduce((a, b) => (Math.abs(b - wanted) < Math.abs(a - wanted) ? b : a))
      : Math.round(wanted)
  return { ...loop, beats: Math.min(Math.max(beats, 0.25), 64 * perBar) }
}

/** A loop with one of its edges at another beat, a quarter of a beat long at least. */
export function withLoopEdge(loop: Loop, edge: 'start' | 'end', beat: number, perBar: number): Loop {
  const length = edge === 'start' ? loop.start + loop.beats - beat : beat - loop.start
  const beats = length < 0.75 ? (length < 0.375 ? 0.25 : 0.5) : Math.min(Math.round(length), 64 * perBar)
  return edge === 'start' ? { ...loop, start: loop.start + loop.beats - beats, beats } : { ...loop, beats }
}

/** A length in bars, beats, or parts of a beat. */
export function loopLength(beats: number, perBar: number): string {
  if (beats < 1) return beats === 0.5 ? '½ beat' : '¼ beat'
  if (beats % perBar) return `${beats} ${beats === 1 ? 'beat' : 'beats'}`
  return `${beats / perBar} ${beats === perBar ? 'bar' : 'bars'}`
}
