import { useRafFn } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'
import { startDrag } from '../page/useDrag'

/** How close to the edge of the list a drag makes it scroll, and how fast. */
const EDGE = 48
const SCROLL_PER_FRAME = 14

export interface RowDragOptions {
  /** What scrolls. */
  box: Ref<HTMLElement | null | undefined>
  rowHeight: number
  count: Ref<number>
  /** The rows that go along with one, itself included, in order. */
  along: (index: number) => number[]
  /** Rows were let go before another place, counted without them. */
  move: (rows: number[], to: number) => void
}

/** Rows of one height that are dragged to another place, however many there are and whichever of them are drawn. */
export function useRowDrag({ box, rowHeight, count, along, move }: RowDragOptions) {
  const from = ref<number>()
  const held = ref<ReadonlySet<number>>(new Set())
  const by = ref(0)
  let scrolledAt = 0
  let pointerY = 0

  /** Where the row that is held would come to stand if all were let go now. */
  const target = computed(() =>
    from.value === undefined
      ? undefined
      : Math.min(count.value - 1, Math.max(0, from.value + Math.round(by.value / rowHeight))),
  )
  /** The place of all that are held, counted without them. */
  const to = computed(() => {
    if (from.value === undefined || target.value === undefined) return undefined
    const border = target.value > from.value ? target.value + 1 : target.value
    let others = 0
    for (let i = 0; i < border; i++) if (!held.value.has(i)) others++
    return others
  })
  /** For each row that is not held, the place that it would have. */
  const places = computed(() => {
    const found = new Map<number, number>()
    if (to.value === undefined) return found
    let place = 0
    for (let i = 0; i < count.value; i++) {
      if (held.value.has(i)) continue
      found.set(i, place < to.value ? place : place + held.value.size)
      place++
    }
    return found
  })

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
    held.value = new Set(along(index))
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
        const place = to.value
        const rows = [...held.value].sort((a, b) => a - b)
        const stays = rows[0] === place && rows.at(-1)! - rows[0]! === rows.length - 1
        end()
        if (place !== undefined && !stays) move(rows, place)
      },
      click: end,
    })
  }

  function end() {
    scrolling.pause()
    from.value = undefined
    held.value = new Set()
  }

  /** How far a row is drawn from its place: those that are held follow the pointer, the others make room. */
  function shiftOf(index: number): number {
    if (from.value === undefined) return 0
    if (held.value.has(index)) return by.value
    return ((places.value.get(index) ?? index) - index) * rowHeight
  }

  return { held, drag, shiftOf }
}
