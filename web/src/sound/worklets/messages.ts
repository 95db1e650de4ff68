/** What the page and the player in the audio thread say to each other. Frames count from the start of a stream. */

interface HowItPlays {
  loop: boolean
  /** Whether all frames are kept, for seeking back and looping; long listening lets go of what has passed. */
  keepAll: boolean
}

export type ToPlayer = { session: number } & (
  | ({ type: 'begin'; running: boolean } & HowItPlays)
  /** A stream is made ready to take over at a frame of the one that plays. */
  | ({ type: 'ready'; at: number } & HowItPlays)
  /** Nothing is to take over any more. */
  | { type: 'alone' }
  /** Left and right in turns. */
  | { type: 'frames'; frames: Float32Array }
  | { type: 'complete' }
  | { type: 'run'; running: boolean }
  | { type: 'seek'; frame: number }
  | { type: 'loop'; loop: boolean }
)

/** What the player last said of itself. */
export interface PlayerReport {
  session: number
  position: number
  /** When that was so, in seconds of the sound's own clock. */
  time: number
  kept: number
  end: number
  running: boolean
  over: boolean
  starved: boolean
}

/** What the meter tells every 100 ms: the K-weighted mean square of both channels together, and the true peak. */
export interface MeterReport {
  energy: number
  peak: number
}
