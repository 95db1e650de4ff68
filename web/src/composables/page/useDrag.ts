/** What a drag tells: pixels from where it began, and whether it has left the spot. */
export interface DragSteps {
  move: (dx: number, dy: number, event: PointerEvent) => void
  drop: (event: PointerEvent) => void
  /** The pointer was let go where it was pressed. */
  click?: (event: PointerEvent) => void
}

const SLACK = 3

/** Follow a pointer from a press to its release, wherever it goes. */
export function startDrag(event: PointerEvent, steps: DragSteps) {
  if (event.button !== 0) return
  event.preventDefault()
  event.stopPropagation()
  const target = event.currentTarget as Element & { focus?: (options?: FocusOptions) => void }
  target.setPointerCapture(event.pointerId)
  target.focus?.({ preventScroll: true })
  let left = false

  function move(e: Event) {
    const at = e as PointerEvent
    const dx = at.clientX - event.clientX
    const dy = at.clientY - event.clientY
    left ||= Math.hypot(dx, dy) > SLACK
    if (left) steps.move(dx, dy, at)
  }
  function end(e: Event) {
    window.removeEventListener('pointermove', move)
    window.removeEventListener('pointerup', end)
    window.removeEventListener('pointercancel', end)
    if (left) steps.drop(e as PointerEvent)
    else if (e.type === 'pointerup') steps.click?.(e as PointerEvent)
  }
  // On the window: what was pressed may be taken out of the page while a long list scrolls under the drag.
  window.addEventListener('pointermove', move)
  window.addEventListener('pointerup', end)
  window.addEventListener('pointercancel', end)
}
