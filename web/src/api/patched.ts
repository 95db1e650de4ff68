import type { MixAnswer, MixChange } from './types'

interface ListChange<T> {
  length: number
  at: number[]
  items: T[]
}

/** An answer after a change that is told against it. What did not change stays the very same object. */
export function patched(before: MixAnswer, { plan, ...head }: MixChange): MixAnswer {
  return {
    ...head,
    plan: {
      rate: plan.rate,
      frames: plan.frames,
      duration_s: plan.duration_s,
      clocks: listAfter(before.plan.clocks, plan.clocks),
      entries: listAfter(before.plan.entries, plan.entries),
      transitions: listAfter(before.plan.transitions, plan.transitions),
      sides: listAfter(before.plan.sides, plan.sides),
      manners: listAfter(before.plan.manners, plan.manners),
      layers: listAfter(before.plan.layers, plan.layers),
      warnings: listAfter(before.plan.warnings, plan.warnings),
    },
  }
}

function listAfter<T>(before: T[], { length, at, items }: ListChange<T>): T[] {
  if (!at.length && before.length === length) return before
  const after = before.slice(0, length)
  at.forEach((place, n) => (after[place] = items[n]!))
  return after
}
