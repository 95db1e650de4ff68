import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { DragSteps } from '../page/useDrag'

let steps: DragSteps
vi.mock('../page/useDrag', () => ({ startDrag: (_: unknown, s: DragSteps) => void (steps = s) }))
vi.mock('@vueuse/core', () => ({ useRafFn: () => ({ pause: () => undefined, resume: () => undefined }) }))

const { useRowDrag } = await import('./useRowDrag')

const ROW = 50

/** Seven rows; those that are `chosen` go along with each other. */
function rows(chosen: number[] = []) {
  const move = vi.fn()
  const drag = useRowDrag({
    box: ref({ scrollTop: 0 } as HTMLElement),
    rowHeight: ROW,
    count: ref(7),
    along: (index) => (chosen.includes(index) ? chosen : [index]),
    move,
  })
  const pull = (index: number, by: number) => {
    drag.drag({ clientY: 0 } as PointerEvent, index)
    steps.move(0, by * ROW, { clientY: 0 } as PointerEvent)
    const shifts = Array.from({ length: 7 }, (_, i) => drag.shiftOf(i) / ROW)
    steps.drop({} as PointerEvent)
    return shifts
  }
  return { move, pull, ...drag }
}

describe('rows that are dragged', () => {
  it('make room for one that goes down, and for one that goes up', () => {
    const { pull, move } = rows()
    expect(pull(1, 2.2)).toEqual([0, 2.2, -1, -1, 0, 0, 0])
    expect(move).toHaveBeenLastCalledWith([1], 3)
    expect(pull(5, -3)).toEqual([0, 0, 1, 1, 1, -3, 0])
    expect(move).toHaveBeenLastCalledWith([5], 2)
  })

  it('go along with each other, and come to stand side by side', () => {
    const { pull, move } = rows([1, 4])
    expect(pull(4, 2)).toEqual([0, 2, -1, -1, 2, -2, -2])
    expect(move).toHaveBeenLastCalledWith([1, 4], 5)
    expect(pull(1, -1)).toEqual([2, -1, 1, 1, -1, 0, 0])
    expect(move).toHaveBeenLastCalledWith([1, 4], 0)
  })

  it('are left alone where nothing has moved, and never leave the list', () => {
    const { pull, move, held } = rows()
    pull(3, 0.3)
    expect(move).not.toHaveBeenCalled()
    pull(3, 40)
    expect(move).toHaveBeenLastCalledWith([3], 6)
    expect(held.value.size).toBe(0)
  })
})
