import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { Command } from '../../api/types'

const sent: Command[] = []
const entries = ref<object[]>([])
vi.mock('../../stores/mix', () => ({
  useMix: () => ({
    get plan() {
      return { entries: entries.value }
    },
    send: (command: Command) => Promise.resolve(sent.push(command) > 0),
  }),
}))

const { useEntryActions } = await import('./useEntryActions')

/** Entries a, b, c …, those before a bracket's end kept with the next. */
function order(text: string, fixed: Record<string, number> = {}) {
  const ids = [...text.replace(/[()]/g, '')]
  const kept = new Set([...text.matchAll(/\(([^)]+)\)/g)].flatMap((m) => [...m[1]!].slice(0, -1)))
  entries.value = ids.map((id, index) => ({ id, index, with_next: kept.has(id), fixed: fixed[id] ?? null }))
}

describe('what is done to the entries that are chosen', () => {
  beforeEach(() => void (sent.length = 0))

  it('moves them by a place, side by side, and not beyond the ends', () => {
    order('abcdef')
    useEntryActions(ref(['b', 'c'])).shift(1)
    useEntryActions(ref(['b', 'c'])).shift(-1)
    useEntryActions(ref(['b', 'd'])).shift(1)
    useEntryActions(ref(['a'])).shift(-1)
    useEntryActions(ref(['e', 'f'])).shift(1)
    expect(sent).toEqual([
      { kind: 'move_entries', entry_ids: ['b', 'c'], to: 2 },
      { kind: 'move_entries', entry_ids: ['b', 'c'], to: 0 },
      { kind: 'move_entries', entry_ids: ['b', 'd'], to: 3 },
    ])
  })

  it('keeps several together, and lets go those that are', () => {
    order('a(bc)d')
    const loose = useEntryActions(ref(['a', 'd']))
    const whole = useEntryActions(ref(['b', 'c']))
    const member = useEntryActions(ref(['c']))
    expect([loose, whole, member].map((a) => [a.isTogether.value, a.isKept.value])).toEqual([
      [false, false],
      [true, true],
      [false, true],
    ])
    for (const actions of [loose, whole, member, useEntryActions(ref(['a']))]) actions.toggleKept()
    expect(sent).toEqual([
      { kind: 'keep_together', entry_ids: ['a', 'd'], together: true },
      { kind: 'keep_together', entry_ids: ['b', 'c'], together: false },
      { kind: 'keep_together', entry_ids: ['c'], together: false },
    ])
  })

  it('fixes one at its place, and lets it go', () => {
    order('abc', { c: -1 })
    useEntryActions(ref(['b'])).toggleFixed()
    useEntryActions(ref(['c'])).toggleFixed()
    useEntryActions(ref(['a', 'b'])).toggleFixed()
    expect(sent).toEqual([
      { kind: 'fix_entry', entry_id: 'b', place: 2 },
      { kind: 'fix_entry', entry_id: 'c', place: null },
    ])
  })

  it('does nothing to nothing', () => {
    order('abc')
    const none = useEntryActions(ref([]))
    void none.remove()
    void none.duplicate()
    none.keep(true)
    none.toggleFixed()
    none.shift(1)
    expect(sent).toEqual([])
  })
})
