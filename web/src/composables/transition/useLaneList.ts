import { useLocalStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'
import type { Control, ControlSpec } from '../../api/types'

/** What is heard as loudness takes the taller lane. */
const HEIGHTS: Record<string, number> = { level: 56 }
const HEIGHT = 42

/** A lane that is shown; what does nothing can be folded away. */
export interface ShownLane {
  spec: ControlSpec
  height: number
  canFold: boolean
}

/** Which lanes are shown: those that always are, those in which something happens, and those that were opened. */
export function useLaneList(
  controls: Ref<readonly ControlSpec[] | undefined>,
  isUsed: (spec: ControlSpec) => boolean,
  hasCurves: Ref<boolean>,
) {
  /** Lanes that somebody wants to see though nothing happens in them. */
  const opened = useLocalStorage<Control[]>('fernbrook-lanes', [])

  const lanes = computed<ShownLane[]>(() => {
    if (!hasCurves.value) return []
    return (controls.value ?? [])
      .filter((spec) => spec.always || isUsed(spec) || opened.value.includes(spec.control))
      .map((spec) => ({
        spec,
        height: HEIGHTS[spec.processor] ?? HEIGHT,
        canFold: !spec.always && !isUsed(spec),
      }))
  })
  const lanesLeft = computed(() =>
    hasCurves.value
      ? (controls.value ?? []).filter((spec) => !lanes.value.some((lane) => lane.spec === spec))
      : [],
  )

  function openLane(control: Control) {
    opened.value = [...opened.value.filter((c) => c !== control), control]
  }
  function foldLane(control: Control) {
    opened.value = opened.value.filter((c) => c !== control)
  }

  return { lanes, lanesLeft, openLane, foldLane }
}
