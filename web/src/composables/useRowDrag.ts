import { useRafFn } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'
import { startDrag } from './useDrag'

/** How close to the edge of the list a drag makes it scroll, and how fast. */
const EDGE = 48
const SCROLL_PER_FRAME = 14

export interface RowDragOptions {
  /** What scrolls. */
  box: Ref<HTMLElement | null | undefined>
  rowHeight: number
  count: Ref<number>
  /** A row was let go before another place, counted without it. */
  move: (from: number, to: number) => void
}

/** Rows of one height that are dragged to another place, however many there are and whichever of them are drawn. */
export function useRowDrag({ box, rowHeight, count, move }: RowDragOptions) {
  const from = ref<number>()
  const by = ref(0)
  let scrolledAt = 0
  let pointerY = 0

  /** Where the row would come to stand if it were let go now. */
  const to = computed(() =>
    from.value === undefined
      ? undefined
      : Math.min(count.value - 1, Math.max(0, from.value + Math.round(by.value / rowHeight))),
  )

  const scrolling = useRafFn(
    () => {
      const { top, bottom } = box.value!.getBoundingClientRect()
      const push = Math.max(0, EDGE - (pointerY - top)) - Math.max(0, EDGE - (bottom - pointerY))
      if (!push) return
      const before = box.value!.scrollTop
      box.value!.scrollTop -= (push / EDGE) * SCROLL_PER_FRAME
      by.value += box.value!.scrollTop - before
    },
    { immediate: false },
  )

  function drag(event: PointerEvent, index: number) {
    from.value = index
    by.value = 0
    scrolledAt = box.value!.scrollTop
    pointerY = event.clientY
    scrolling.resume()
    startDrag(event, {
      move: (_, dy, at) => {
        pointerY = at.clientY
        by.value = dy + box.value!.scrollTop - scrolledAt
      },
      drop: () => {
        const target = to.value
        end()
        if (target !== undefined && target !== index) move(index, target)
      },
      click: end,
    })
  }

  function end() {
    scrolling.pause()
    from.value = undefined
  }

  /** How far a row is drawn from its place: the one that is held follows the pointer, the others make room. */
  function shiftOf(index: number): number {
    if (from.value === undefined || to.value === undefined) return 0
    if (index === from.value) return by.value
    if (index > from.value && index <= to.value) return -rowHeight
    return index < from.value && index >= to.value ? rowHeight : 0
  }

  return { held: from, drag, shiftOf }
}
