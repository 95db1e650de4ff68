import type { Plan } from '../api/types'
import { lastNotAfter } from './grid'

interface Stretch {
  beat: number
  bpm: number
  slope: number
  time: number
}

/** The mix's clock for drawing: beats and seconds through the tempo map, as `core/tempo_map.py` has it. */
export class Clock {
  private readonly stretches: Stretch[] = []

  constructor(plan: Pick<Plan, 'tempo' | 'origin_beat'>) {
    const points = plan.tempo
    const first = points[0]!
    this.stretches.push({ beat: first.beat, bpm: first.bpm, slope: 0, time: 0 })
    points.forEach((point, i) => {
      const next = points[i + 1]
      const slope = next && next.beat > point.beat ? (next.bpm - point.bpm) / (next.beat - point.beat) : 0
      const before = this.stretches[this.stretches.length - 1]!
      const time = before.time + elapsed(before, point.beat - before.beat)
      this.stretches.push({ beat: point.beat, bpm: point.bpm, slope, time })
    })
    const origin = this.timeAt(plan.origin_beat)
    for (const stretch of this.stretches) stretch.time -= origin
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

  private at(axis: 'beat' | 'time', value: number): Stretch {
    const starts = this.stretches.slice(1).map((s) => s[axis])
    return this.stretches[lastNotAfter(starts, value) + 1]!
  }
}

function elapsed(s: Stretch, beats: number): number {
  return s.slope ? (60 / s.slope) * Math.log1p((s.slope * beats) / s.bpm) : (60 * beats) / s.bpm
}
