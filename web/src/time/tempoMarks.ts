import type { ClockPoints, Entry, PlannedTransition, TempoMark } from '../api/types'
import { Clock } from './clock'
import { entryBeatOf, mixBeatOf } from './entryClock'

/** A tempo that was set by hand, where it lies in the mix. */
export interface LaidMark {
  mark: TempoMark
  beat: number
  /** The place of the clock that it is of. */
  clock: number
}

/** A plan as far as tempo marks look at it. */
export interface TempoPlan {
  entries: Pick<Entry, 'id' | 'clock' | 'offset' | 'end_s'>[]
  transitions: Pick<PlannedTransition, 'start_beat' | 'end_beat'>[]
  clocks: ClockPoints[]
}

const CLOSE = 1e-6

/** The marks of a mix in the order of its beats; those of entries that are gone are left out. */
export function laidMarks(marks: readonly TempoMark[], plan: TempoPlan): LaidMark[] {
  const entries = new Map(plan.entries.map((e) => [e.id, e]))
  return marks
    .flatMap((mark) => {
      const entry = entries.get(mark.entry_id)
      return entry ? [{ mark, beat: mixBeatOf(entry, mark.beat), clock: entry.clock }] : []
    })
    .sort((a, b) => a.beat - b.beat)
}

/** A mark at a beat of the mix; it is of the entry that leads there, from the middle of its overlap on. */
export function markAt(beat: number, bpm: number, plan: TempoPlan, onward: TempoMark['onward'] = 'straight') {
  const leads = (index: number) => {
    const t = plan.transitions[index - 1]
    return t ? (t.start_beat + t.end_beat) / 2 : -Infinity
  }
  const entry = [...plan.entries].reverse().find((_, i, all) => leads(all.length - 1 - i) <= beat + CLOSE)!
  const mark: TempoMark = { entry_id: entry.id, beat: entryBeatOf(entry, beat), bpm, onward }
  return { mark, beat, clock: entry.clock }
}

/**
 * Marks with one more, which pulls the line as a finger pulls a string: where it has no mark on one side yet, the line is
 * held by one at the next turn of the tempo there, so that it leaves from and comes back to what it was.
 */
export function withMark(marks: readonly LaidMark[], beat: number, bpm: number, plan: TempoPlan): LaidMark[] {
  const made = markAt(beat, bpm, plan)
  const own = marks.filter((m) => m.clock === made.clock)
  const held = []
  if (!own.some((m) => m.beat <= beat + CLOSE)) held.push(...fence(made, plan, -1))
  if (!own.some((m) => m.beat >= beat - CLOSE)) held.push(...fence(made, plan, 1))
  const others = marks.filter((m) => m.clock !== made.clock || Math.abs(m.beat - beat) > CLOSE)
  return [...others, ...held, made].sort((a, b) => a.beat - b.beat)
}

/** The mark that holds the line on one side of a new one: at the nearest turn, else where the chain begins or ends. */
function fence(made: LaidMark, plan: TempoPlan, way: 1 | -1): LaidMark[] {
  const points = plan.clocks[made.clock]!
  const clock = new Clock(points)
  const chain = plan.entries.filter((e) => e.clock === made.clock)
  const end = clock.beatAt(Math.max(...chain.map((e) => e.end_s)))
  const turns = [...points.tempo.map(([beat]) => beat), ...(way > 0 ? [end] : [points.origin_beat])]
  const there = turns.filter((b) => (b - made.beat) * way > CLOSE).sort((a, b) => (a - b) * way)[0]
  if (there === undefined) return []
  // Of a step, the side that is turned to the new mark.
  const bpm = clock.bpmAt(way > 0 ? there - CLOSE : there)
  return [{ ...markAt(there, bpm, plan), clock: made.clock }]
}
