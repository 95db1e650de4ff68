import { computed, type Ref } from 'vue'
import type { Command, ControlSpec, PlannedTransition, Side } from '../../api/types'
import { isLevel, type CurveSide } from '../../time/curveEdit'
import { spanOf } from '../../drawing/seamSide'
import { useCurveEditing } from './useCurveEditing'
import { useLaneList } from './useLaneList'
import type { Placing } from './usePlacing'
import type { SeamViewport } from './useSeamView'

const SIDES = ['outgoing', 'incoming'] as const
/** Pixels between which the curve of a side runs. */
export interface LaneSpan {
  startX: number
  endX: number
}

/** The lanes of a transition: which are shown, where the curves of each side run in them, and their editing. */
export function useLanes(
  planned: Ref<PlannedTransition>,
  placing: Placing,
  view: SeamViewport,
  unit: Ref<number>,
  send: (command: Command) => Promise<boolean>,
) {
  function beats(side: CurveSide): number {
    const { kind } = planned.value.transition
    const span = spanOf(
      kind,
      side === 'incoming' ? side : 'outgoing',
      placing.start.value,
      placing.end.value,
      placing.place.value.lead,
    )
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

  const hasCurves = computed(() => SIDES.some((side) => !!spans.value[side]))
  const { lanes, lanesLeft, openLane, foldLane } = useLaneList(editing.controls, isUsed, hasCurves)

  return { lanes, spans, editing, lanesLeft, openLane, foldLane }
}
