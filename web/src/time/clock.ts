import type { ClockPoints } from '../api/types'
import { lastNotAfter } from './sorted'

interface Stretch {
  beat: number
  bpm: number
  slope: number
  time: number
}

/** A way from tempo to tempo that is shorter is a step, as in the core. */
const STEP_BEATS = 1e-9

/** A clock of the mix for drawing: beats and seconds through the tempo map, as `core/tempo_map.py` has it. */
export class Clock {
  private readonly stretches: Stretch[] = []
  private starts: Record<'beat' | 'time', number[]>

  constructor({ tempo: points, origin_beat }: ClockPoints) {
    const [firstBeat, firstBpm] = points[0]!
    this.stretches.push({ beat: firstBeat, bpm: firstBpm, slope: 0, time: 0 })
    points.forEach((point, i) => {
      const [beat, bpm] = point
      const next = points[i + 1]
      const slope = next && next[0] - beat > STEP_BEATS ? (next[1] - bpm) / (next[0] - beat) : 0
      const before = this.stretches[this.stretches.length - 1]!
      const time = before.time + elapsed(before, beat - before.beat)
      this.stretches.push({ beat, bpm, slope, time })
    })
    this.starts = this.startsOfStretches()
    const origin = this.timeAt(origin_beat)
    for (const stretch of this.stretches) stretch.time -= origin
    this.starts = this.startsOfStretches()
  }

  /** Seconds of the mix at a beat. */
  timeAt(beat: number): number {
    const s = this.at('beat', beat)
    return s.time + elapsed(s, beat - s.beat)
  }

  /** The beat of the mix at a second. */
  beatAt(time: number): number {
    const s = this.at('time', time)
    const t = time - s.time
    return s.beat + (s.slope ? (s.bpm / s.slope) * Math.expm1((s.slope * t) / 60) : (s.bpm * t) / 60)
  }

  /** Tempo at a beat; on a step, the tempo after it. */
  bpmAt(beat: number): number {
    const s = this.at('beat', beat)
    return s.bpm + s.slope * (beat - s.beat)
  }

  private startsOfStretches() {
    return { beat: this.stretches.map((s) => s.beat), time: this.stretches.map((s) => s.time) }
  }

  private at(axis: 'beat' | 'time', value: number): Stretch {
    return this.stretches[Math.max(0, lastNotAfter(this.starts[axis], value))]!
  }
}

function elapsed(s: Stretch, beats: number): number {
  return s.slope ? (60 / s.slope) * Math.log1p((s.slope * beats) / s.bpm) : (60 * beats) / s.bpm
}
