import { useLocalStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'
import type { Command, Control, ControlSpec, PlannedTransition, Side } from '../api/types'
import { isLevel } from '../time/curveEdit'
import { spanOf } from '../drawing/seamSide'
import { useCurveEditing } from './useCurveEditing'
import type { Placing } from './usePlacing'
import type { SeamViewport } from './useSeamView'

const SIDES = ['outgoing', 'incoming'] as const
/** What is heard as loudness takes the taller lane. */
const HEIGHTS: Record<string, number> = { level: 56 }
const HEIGHT = 42

/** Pixels between which the curve of a side runs. */
export interface LaneSpan {
  startX: number
  endX: number
}

/** A lane that is shown; what does nothing can be folded away. */
export interface ShownLane {
  spec: ControlSpec
  height: number
  canFold: boolean
}

/** The lanes of a transition: which are shown, where the curves of each side run in them, and their editing. */
export function useLanes(
  planned: Ref<PlannedTransition>,
  placing: Placing,
  view: SeamViewport,
  unit: Ref<number>,
  send: (command: Command) => Promise<boolean>,
) {
  /** Lanes that somebody wants to see though nothing happens in them. */
  const opened = useLocalStorage<Control[]>('fernbrook-lanes', [])

  function beats(side: Side): number {
    const { kind } = planned.value.transition
    const span = spanOf(kind, side, placing.start.value, placing.end.value, placing.place.value.lead)
    return span.end - span.start
  }
  const editing = useCurveEditing(planned, beats, unit, send)

  const spans = computed<Record<Side, LaneSpan | undefined>>(() => ({
    outgoing: laneSpan('outgoing'),
    incoming: laneSpan('incoming'),
  }))

  function laneSpan(side: Side): LaneSpan | undefined {
    const { kind } = planned.value.transition
    const span = spanOf(kind, side, placing.start.value, placing.end.value, placing.place.value.lead)
    return span.end > span.start ? { startX: view.xOf(span.start), endX: view.xOf(span.end) } : undefined
  }

  function isUsed(spec: ControlSpec) {
    return SIDES.some((side) => !isLevel(planned.value.transition[side][spec.control], spec.neutral))
  }

  const hasCurves = computed(() => SIDES.some((side) => spans.value[side]))
  const lanes = computed<ShownLane[]>(() => {
    if (!hasCurves.value) return []
    return (editing.controls.value ?? [])
      .filter((spec) => spec.always || isUsed(spec) || opened.value.includes(spec.control))
      .map((spec) => ({
        spec,
        height: HEIGHTS[spec.processor] ?? HEIGHT,
        canFold: !spec.always && !isUsed(spec),
      }))
  })
  const lanesLeft = computed(() =>
    hasCurves.value
      ? (editing.controls.value ?? []).filter((spec) => !lanes.value.some((lane) => lane.spec === spec))
      : [],
  )

  function openLane(control: Control) {
    opened.value = [...opened.value.filter((c) => c !== control), control]
  }
  function foldLane(control: Control) {
    opened.value = opened.value.filter((c) => c !== control)
  }

  return { lanes, spans, editing, lanesLeft, openLane, foldLane }
}
