import { computed, ref, shallowRef, type Ref } from 'vue'

/** Which rows of a long list are chosen, and on which the keys are: by click, with ctrl, with shift, and by keys. */
export function useSelection(ids: Ref<readonly string[]>) {
  const chosen = shallowRef<ReadonlySet<string>>(new Set())
  const cursor = ref<string>()
  /** Where a range that is being chosen began. */
  let anchor: string | undefined

  const places = computed(() => new Map(ids.value.map((id, place) => [id, place])))
  const list = computed(() => ids.value.filter((id) => chosen.value.has(id)))

  function choose(id: string, how: { add?: boolean; range?: boolean } = {}) {
    if (how.range) return extendTo(id)
    const next = new Set(how.add ? chosen.value : [])
    if (how.add && next.has(id)) next.delete(id)
    else next.add(id)
    chosen.value = next
    cursor.value = anchor = id
  }

  /** Choose all from where the last choice began to a row. */
  function extendTo(id: string) {
    const from = places.value.get(anchor ?? cursor.value ?? id) ?? 0
    const to = places.value.get(id) ?? from
    chosen.value = new Set(ids.value.slice(Math.min(from, to), Math.max(from, to) + 1))
    cursor.value = id
  }

  /** Move by rows; with `range` what lies between is chosen as well. Returns where it came to. */
  function move(by: number, range = false): number | undefined {
    if (!ids.value.length) return undefined
    const at = cursor.value === undefined ? -1 : (places.value.get(cursor.value) ?? -1)
    const to = Math.min(Math.max(at + by, 0), ids.value.length - 1)
    choose(ids.value[to]!, { range })
    return to
  }

  const all = () => void (chosen.value = new Set(ids.value))
  const none = () => void (chosen.value = new Set())

  return { chosen, list, cursor, choose, extendTo, move, all, none }
}

export type Selection = ReturnType<typeof useSelection>
