import { useStorage } from '@vueuse/core'
import { computed } from 'vue'
import { COLUMNS, FIRST_COLUMNS, UNSORTED, type ColumnSpec } from '../../library/columns'

const MOST_SORTED = 4
const NEWEST_FIRST = ['-added']

/** Which columns the table of tracks has, in which order, and by which it is sorted; kept from visit to visit. */
export function useTrackTable() {
  /** The first before the others; falling ones with a minus. */
  const sort = useStorage<string[]>('fernbrook.sort', NEWEST_FIRST)
  const shown = useStorage<string[]>('fernbrook.columns', FIRST_COLUMNS)

  const columns = computed(() =>
    shown.value.map((key) => COLUMNS.find((c) => c.key === key)).filter((c) => c !== undefined),
  )
  const others = computed(() => COLUMNS.filter((c) => !columns.value.includes(c)))
  /** The widths of the chosen columns; what stands after them is the same in every table. */
  const layout = computed(() => ({ '--columns': columns.value.map((c) => c.width).join(' ') }))
  const isNewestFirst = computed(() => sort.value.length === 1 && sort.value[0] === NEWEST_FIRST[0])

  /** Sort by a column, the other way when it is asked again; `within` what is sorted already. */
  function sortBy({ key }: ColumnSpec, within: boolean) {
    if (UNSORTED.has(key)) return
    const at = sort.value.findIndex((s) => s.replace('-', '') === key)
    const falls = at >= 0 ? !sort.value[at]!.startsWith('-') : key === 'added'
    const term = falls ? `-${key}` : key
    if (!within) sort.value = [term]
    else if (at >= 0) sort.value = sort.value.map((s, i) => (i === at ? term : s))
    else sort.value = [...sort.value, term].slice(-MOST_SORTED)
  }

  /** The place of a column among those that are sorted by, and which way it goes. */
  function sortOf(key: string) {
    const at = sort.value.findIndex((s) => s.replace('-', '') === key)
    return at < 0 ? undefined : { place: at + 1, falls: sort.value[at]!.startsWith('-') }
  }

  const unsort = () => void (sort.value = NEWEST_FIRST)

  function toggle(key: string, on: boolean) {
    const rest = shown.value.filter((c) => c !== key)
    shown.value = on ? [...rest, key] : rest
  }

  function move(key: string, by: number) {
    const order = [...shown.value]
    const at = order.indexOf(key)
    const to = Math.min(Math.max(at + by, 0), order.length - 1)
    order.splice(to, 0, ...order.splice(at, 1))
    shown.value = order
  }

  return { sort, columns, others, layout, isNewestFirst, sortBy, sortOf, unsort, toggle, move }
}

export type TrackTableState = ReturnType<typeof useTrackTable>
