import { describe, expect, it } from 'vitest'
import { mixOf } from './mixOf'
import { patched } from './patched'
import type { MixAnswer, MixChange } from './types'

const same = (length: number) => ({ length, at: [], items: [] })
const lists = {
  clocks: same(1),
  entries: same(3),
  transitions: same(2),
  sides: same(1),
  manners: same(1),
  layers: same(0),
  warnings: same(0),
}

function answer(): MixAnswer {
  const between = (index: number) => ({
    index,
    transition: { out_at: 8, outgoing: 0, incoming: 0, manner: 0 },
  })
  return {
    id: 'm',
    version: 1,
    tag: 'a',
    plan: {
      duration_s: 60,
      clocks: [{ origin_beat: 0 }],
      entries: [{ id: 'e1' }, { id: 'e2' }, { id: 'e3' }],
      transitions: [between(0), between(1)],
      sides: [{ volume: [] }],
      manners: [{ kind: 'blend' }],
      layers: [],
      warnings: [],
    },
  } as unknown as MixAnswer
}

function change(plan: object): MixChange {
  return {
    id: 'm',
    version: 2,
    tag: 'b',
    since: 'a',
    plan: { duration_s: 61, ...lists, ...plan },
  } as unknown as MixChange
}

describe('a change that is told against an answer', () => {
  it('puts in what changed and leaves the rest as it is', () => {
    const before = answer()
    const after = patched(
      before,
      change({ entries: { length: 3, at: [1], items: [{ id: 'e2', gain_db: -3 }] } }),
    )
    expect(after).toMatchObject({ version: 2, tag: 'b', plan: { duration_s: 61 } })
    expect(after.plan.entries).toEqual([{ id: 'e1' }, { id: 'e2', gain_db: -3 }, { id: 'e3' }])
    expect(after.plan.entries[0]).toBe(before.plan.entries[0])
    expect(after.plan.transitions).toBe(before.plan.transitions)
    expect(before.plan.entries[1]).toEqual({ id: 'e2' })
  })

  it('makes lists shorter and longer', () => {
    const shorter = patched(answer(), change({ entries: same(1), transitions: same(0) }))
    expect(shorter.plan.entries).toEqual([{ id: 'e1' }])
    const longer = patched(shorter, change({ entries: { length: 2, at: [1], items: [{ id: 'e9' }] } }))
    expect(longer.plan.entries).toEqual([{ id: 'e1' }, { id: 'e9' }])
  })

  it('keeps transitions as the page has them where nothing of them changed', () => {
    const before = answer()
    const fresh = { index: 1, transition: { out_at: 12, outgoing: 0, incoming: 0, manner: 0 } }
    const after = patched(before, change({ transitions: { length: 2, at: [1], items: [fresh] } }))
    const [first, second] = mixOf(before).plan.transitions
    const now = mixOf(after).plan.transitions
    expect(now[0]).toBe(first)
    expect(now[1]).not.toBe(second)
    expect(now[1]!.transition.out_at).toBe(12)
  })
})
