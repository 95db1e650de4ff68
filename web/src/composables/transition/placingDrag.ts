import { startDrag } from '../page/useDrag'
import type { Part, Placing } from './usePlacing'
import type { SeamViewport } from './useSeamView'

/** Pixels from which a drag catches on a cue. */
const REACH = 9

/** Moves parts of a transition with the pointer and with the arrow keys. */
export function placingDrag(placing: Placing, view: SeamViewport) {
  return {
    /** Follow a drag; `click` is for a press that went nowhere. */
    drag(event: PointerEvent, part: Part, click?: (event: PointerEvent) => void) {
      startDrag(event, {
        move: (dx) => placing.drag(part, dx / view.perBeat.value, REACH / view.perBeat.value),
        drop: () => void placing.drop(),
        click,
      })
    },
    key(event: KeyboardEvent, part: Part) {
      const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
      if (!step) return
      event.preventDefault()
      placing.nudge(part, step * (event.shiftKey ? 4 : 1))
    },
  }
}
