import type { Control, Curve, Side, Transition } from '../../api/types'
import { level } from '../../time/curve'
import { useControls } from '../page/useTables'

/** The curves of transitions, by the table of controls: one that is not there is level where its control is neutral. */
export function useCurves() {
  const { data: controls } = useControls()

  function curveOf(transition: Transition, side: Side, control: Control): Curve {
    const neutral = controls.value?.find((c) => c.control === control)?.neutral ?? 1
    return transition[side][control] ?? level(neutral)
  }

  return { controls, curveOf }
}
