import type { Step } from '../api/types'

/** How a meeting of two keys is marked, beside its words: dots that touch, come near, stand apart, or lie far. */
export type Nearness = 'same' | 'near' | 'apart' | 'far' | 'unknown'

const NEARNESS = {
  same: 'same',
  relative: 'near',
  neighbour: 'near',
  creative: 'apart',
  clash: 'far',
} as const

export const nearnessOf = (step: Pick<Step, 'relation'>): Nearness =>
  step.relation === null ? 'unknown' : NEARNESS[step.relation]

/** Whether somebody should look at a step: a tempo out of reach, or keys that clash. */
export const isJump = (step: Pick<Step, 'relation' | 'is_leap'>): boolean =>
  step.is_leap || step.relation === 'clash'

/** A shift of a key in semitones, with its sign. */
export const semitones = (shift: number): string =>
  `${shift > 0 ? '+' : shift < 0 ? '−' : ''}${Math.abs(shift)}`
