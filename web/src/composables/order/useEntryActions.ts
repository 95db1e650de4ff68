import { computed, type Ref } from 'vue'
import type { Command, Entry } from '../../api/types'
import { useMix } from '../../stores/mix'

export const LAST = -1

/** What can be done to the entries that are chosen in the running order, all at once. */
export function useEntryActions(chosen: Ref<readonly string[]>) {
  const mix = useMix()
  const entries = computed(() => mix.plan?.entries ?? [])
  const some = computed(() => entries.value.filter((e) => chosen.value.includes(e.id)))
  const isTogether = computed(
    () =>
      some.value.length > 1 &&
      some.value.slice(0, -1).every((e, i) => e.with_next && some.value[i + 1]!.index === e.index + 1),
  )
  const isKept = computed(() => some.value.some((e) => e.with_next || entries.value[e.index - 1]?.with_next))
  const isFixed = computed(() => some.value.length === 1 && some.value[0]!.fixed !== null)
  const send = (command: Command) => mix.send(command)
  const ids = () => some.value.map((e) => e.id)

  return {
    some,
    isTogether,
    isKept,
    isFixed,
    move: (entryIds: string[], to: number) => send({ kind: 'move_entries', entry_ids: entryIds, to }),
    /** Move what is chosen by a place. */
    shift(by: 1 | -1) {
      const first = some.value[0]
      const last = some.value.at(-1)
      if (!first || !last) return
      const above = entries.value.slice(0, first.index).length
      const within = last.index - first.index + 1 - some.value.length
      const to = by < 0 ? above - 1 : above + within + 1
      if (to < 0 || to > entries.value.length - some.value.length) return
      void send({ kind: 'move_entries', entry_ids: ids(), to })
    },
    remove: () => ids().length && send({ kind: 'remove_entries', entry_ids: ids() }),
    duplicate: () => ids().length && send({ kind: 'duplicate_entries', entry_ids: ids() }),
    keep(together: boolean) {
      if (ids().length) void send({ kind: 'keep_together', entry_ids: ids(), together })
    },
    toggleKept() {
      if (isTogether.value || (some.value.length === 1 && isKept.value)) this.keep(false)
      else if (some.value.length > 1) this.keep(true)
    },
    fix: (entry: Entry, place: number | null) => send({ kind: 'fix_entry', entry_id: entry.id, place }),
    toggleFixed() {
      const entry = some.value[0]
      if (some.value.length === 1 && entry)
        void this.fix(entry, entry.fixed === null ? entry.index + 1 : null)
    },
  }
}

export type EntryActions = ReturnType<typeof useEntryActions>
