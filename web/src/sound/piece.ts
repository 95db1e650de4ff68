import type { Mix } from '../api/types'

/** What is, or can be, listened to: a span of a mix or a track. Frames count from the start of that mix or track. */
export interface Piece {
  kind: 'mix' | 'track'
  id: string
  /** Words for the listening bar. */
  label: string
  start: number
  end: number
  /** The sound's address, from a frame on. */
  url: (from: number) => string
  /** Short enough to be kept whole, so that it can loop. */
  loops: boolean
  /** Whether its address gives one round from a frame on, back to that frame. */
  wraps?: boolean
  /** The place of the transition that it is of, if it is of one. */
  transition?: number
  /** The same of a mix that has been changed since; undefined where that has no such place any more. */
  again?: (mix: Mix) => Piece | undefined
}
