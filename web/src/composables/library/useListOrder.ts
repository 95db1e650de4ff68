import { ref, type Ref } from 'vue'
import { attempt } from '../page/attempt'
import type { LibraryActions } from './useLibrary'
import type { Selection } from './useSelection'

const TYPE = 'text/tracks'

/** The tracks that a drag carries. */
export const dragged = (event: DragEvent) => JSON.parse(event.dataTransfer?.getData(TYPE) || '[]') as string[]
export const carriesTracks = (event: DragEvent) => event.dataTransfer?.types.includes(TYPE) ?? false

/** Have a drag carry tracks. */
export const carry = (event: DragEvent, ids: readonly string[]) =>
  event.dataTransfer?.setData(TYPE, JSON.stringify(ids))

/** Let a drag be dropped here. What else listens takes dropped files, and refuses all that is none. */
export function accept(event: DragEvent) {
  event.preventDefault()
  event.stopPropagation()
}

/** Rows of tracks that are carried elsewhere, and the order of a list that is open, changed by drag and by keys. */
export function useListOrder(options: {
  list: Ref<string | undefined>
  ids: Ref<readonly string[]>
  /** Whether the rows stand in the list's own order, so that they can be put into another. */
  isOwn: Ref<boolean>
  selection: Selection
  library: LibraryActions
}) {
  const { list, ids, isOwn, selection, library } = options
  const before = ref<string>()

  function start(event: DragEvent, id: string) {
    const some = selection.chosen.value.has(id) ? selection.list.value : [id]
    carry(event, some)
  }

  function over(event: DragEvent, id: string) {
    if (!isOwn.value || !carriesTracks(event)) return
    accept(event)
    before.value = id
  }

  const leave = () => void (before.value = undefined)

  /** Put the rows that are dragged before another row. */
  async function drop(event: DragEvent, id: string) {
    leave()
    if (!isOwn.value) return
    accept(event)
    await put(dragged(event), id)
  }

  async function put(moved: string[], at: string | undefined) {
    const gone = new Set(moved)
    if (!moved.length || !list.value || (at && gone.has(at))) return
    const rest = ids.value.filter((t) => !gone.has(t))
    const place = at === undefined ? rest.length : rest.indexOf(at)
    const track_ids = [...rest.slice(0, place), ...moved, ...rest.slice(place)]
    await attempt(() => library.changeList(list.value!, { track_ids }))
  }

  /** Move what is chosen by one place. */
  function shift(by: 1 | -1) {
    const moved = selection.list.value
    if (!isOwn.value || !moved.length) return
    const at = ids.value.indexOf(by < 0 ? moved[0]! : moved.at(-1)!) + by
    if (at < 0 || at >= ids.value.length) return
    void put(moved, by < 0 ? ids.value[at] : ids.value[at + 1])
  }

  return { before, start, over, leave, drop, shift }
}
