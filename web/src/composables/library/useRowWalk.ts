import type { Ref } from 'vue'
import type { Selection } from './useSelection'

interface Options {
  selection: Selection
  /** The box in which the rows scroll. */
  box: Readonly<Ref<HTMLElement | null>>
  rowHeight: number
}

/** Walks a list by keys: a row that is out of view comes into it. */
export function useRowWalk({ selection, box, rowHeight }: Options) {
  return (by: number, range: boolean): void => {
    const row = selection.move(by, range)
    if (row === undefined || !box.value) return
    const { scrollTop, clientHeight } = box.value
    const top = row * rowHeight
    if (top < scrollTop) box.value.scrollTop = top
    else if (top + rowHeight > scrollTop + clientHeight) box.value.scrollTop = top + rowHeight - clientHeight
  }
}
