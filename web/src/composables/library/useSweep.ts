import type { Selection } from './useSelection'

const OWN = 'button, a, input'

/** Choosing rows by press and drag; rows that are chosen are dragged away instead. */
export function useSweep(selection: Selection) {
  let sweeping = false
  function press(event: PointerEvent, id: string) {
    const target = event.target as HTMLElement
    if (event.button !== 0 || target.closest(OWN)) return
    if (selection.chosen.value.has(id) && !event.ctrlKey && !event.metaKey && !event.shiftKey) return
    sweeping = true
    window.addEventListener('pointerup', () => (sweeping = false), { once: true })
    selection.choose(id, { add: event.ctrlKey || event.metaKey, range: event.shiftKey })
  }

  function release(event: MouseEvent, id: string) {
    const target = event.target as HTMLElement
    if (target.closest(OWN) || event.ctrlKey || event.metaKey || event.shiftKey) return
    if (selection.chosen.value.size > 1) selection.choose(id)
  }

  function sweep(id: string) {
    if (sweeping) selection.extendTo(id)
  }

  return { press, release, sweep }
}
