import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import type { Command, Control, Curve, Onward, PlannedTransition } from '../../api/types'
import {
  isFixed,
  mirrored,
  snapped,
  suited,
  withAdded,
  withEnds,
  withMovedTogether,
  withOnward,
  withRemoved,
  type CurveSide,
  type PickedPoint,
} from '../../time/curveEdit'
import { useResting } from '../page/useResting'
import { useCurves } from './useCurves'

const otherSide = (side: CurveSide): CurveSide => (side === 'outgoing' ? 'incoming' : 'outgoing')
const samePoint = (a: PickedPoint, b: PickedPoint) =>
  a.side === b.side && a.control === b.control && a.index === b.index

/** A curve that was copied: it stays at hand while one goes from transition to transition. */
const copied = shallowRef<Curve>()

/** A curve as it is to be: whose, of which control. */
export interface Lane {
  side: CurveSide
  control: Control
  curve: Curve
}

/** What has curves: where they are had from and sent to. Another `id` is another thing, of which nothing is chosen. */
export interface Curved {
  id: string
  curveOf: (side: CurveSide, control: Control) => Curve
  put: (lanes: Lane[]) => Promise<boolean>
}

/** The curves of a transition while they are worked on. */
export function useCurveEditing(
  planned: Ref<PlannedTransition>,
  beats: (side: CurveSide) => number,
  unit: Ref<number>,
  send: (command: Command) => Promise<boolean>,
) {
  const { curveOf } = useCurves()
  const curved = computed<Curved>(() => {
    const { transition } = planned.value
    const pair = { out_id: transition.out_id, in_id: transition.in_id }
    const ofSides = (lanes: Lane[]) =>
      lanes.flatMap((l) => (l.side === 'layer' ? [] : [{ ...l, side: l.side }]))
    return {
      id: `${pair.out_id} ${pair.in_id}`,
      curveOf: (side, control) => curveOf(transition, side === 'incoming' ? side : 'outgoing', control),
      put: (all) => {
        const lanes = ofSides(all)
        const [first] = lanes
        if (lanes.length === 1 && first) return send({ kind: 'set_curve', ...pair, ...first })
        return send({ kind: 'set_curves', ...pair, curves: lanes })
      },
    }
  })
  return useEditingOf(curved, beats, unit)
}

/**
 * Curves while they are worked on: which points are chosen, where they are dragged to, and what is
 * sent when they are let go. Chosen points move together, whichever lane and side they are of.
 *
 * `beats` says over how many beats the curves of a side run, `unit` to how many of them points snap (0 is free).
 */
export function useEditingOf(curved: Ref<Curved>, beats: (side: CurveSide) => number, unit: Ref<number>) {
  const { controls } = useCurves()
  const picked = ref<PickedPoint[]>([])
  const drafts = shallowRef(new Map<string, Lane>())
  watch(curved, () => (drafts.value = new Map()))
  watch(
    () => curved.value.id,
    () => (picked.value = []),
  )

  const pressed = useResting<Map<string, Lane>>()
  watch(() => curved.value.id, pressed.leave)
  const stored = (side: CurveSide, control: Control) => withEnds(curved.value.curveOf(side, control))
  /** As it will be when what was pressed is sent. */
  const settled = (side: CurveSide, control: Control) =>
    pressed.draft.value?.get(`${side} ${control}`)?.curve ?? stored(side, control)
  const shown = (side: CurveSide, control: Control) =>
    drafts.value.get(`${side} ${control}`)?.curve ?? settled(side, control)
  const neutralOf = (control: Control) => controls.value?.find((c) => c.control === control)?.neutral ?? 1
  const isPicked = (point: PickedPoint) => picked.value.some((p) => samePoint(p, point))

  function pick(point: PickedPoint, more = false) {
    if (!more) picked.value = isPicked(point) ? picked.value : [point]
    else if (isPicked(point)) picked.value = picked.value.filter((p) => !samePoint(p, point))
    else picked.value = [...picked.value, point]
  }

  function pickMany(points: PickedPoint[]) {
    picked.value = points
  }

  /** The chosen points by the curve that they are of. */
  function byLane(): { side: CurveSide; control: Control; indices: number[] }[] {
    const lanes = new Map<string, { side: CurveSide; control: Control; indices: number[] }>()
    for (const { side, control, index } of picked.value) {
      const lane = lanes.get(`${side} ${control}`) ?? { side, control, indices: [] }
      lane.indices.push(index)
      lanes.set(`${side} ${control}`, lane)
    }
    return [...lanes.values()]
  }

  const named = (lanes: Lane[]) => new Map(lanes.map((lane) => [`${lane.side} ${lane.control}`, lane]))

  function draft(lanes: Lane[]) {
    drafts.value = named(lanes)
  }

  /** Move all that is chosen as far as one of its points is moved, which snaps. */
  function drag(held: PickedPoint, by: number, rise: number) {
    const [at] = settled(held.side, held.control)[held.index] ?? [0]
    const to = snapped(at + by, beats(held.side), unit.value)
    draft(
      byLane().map(({ side, control, indices }) => ({
        side,
        control,
        curve: withMovedTogether(settled(side, control), indices, to - at, rise, side),
      })),
    )
  }

  /** Put a point on a curve, from where it can be dragged on. */
  function add(side: CurveSide, control: Control, at: number, value: number): PickedPoint | undefined {
    const place = snapped(at, beats(side), unit.value)
    const added = withAdded(settled(side, control), place, value)
    if (!added) return undefined
    draft([{ side, control, curve: added.curve }])
    const point = { side, control, index: added.index }
    picked.value = [point]
    return point
  }

  /** Move a point that was added and not sent yet. */
  function dragAdded(held: PickedPoint, at: number, value: number, from: Curve) {
    const place = snapped(at, beats(held.side), unit.value)
    const [wasAt, wasValue] = from[held.index]!
    const curve = withMovedTogether(from, [held.index], place - wasAt, value - wasValue, held.side)
    draft([{ side: held.side, control: held.control, curve }])
  }

  async function commit(): Promise<boolean> {
    const lanes = [...drafts.value.values()]
    if (!lanes.length) return true
    void pressed.flush()
    const sent = await curved.value.put(lanes)
    if (!sent) drafts.value = new Map()
    return sent
  }

  /** Change the curves of what is chosen, each by itself. */
  function change(how: (curve: Curve, indices: number[], side: CurveSide) => Curve): Promise<boolean> {
    const lanes = changed(how)
    void pressed.flush()
    return lanes.length ? curved.value.put(lanes) : Promise.resolve(true)
  }

  function changed(how: (curve: Curve, indices: number[], side: CurveSide) => Curve): Lane[] {
    return byLane().map(({ side, control, indices }) => ({
      side,
      control,
      curve: how(settled(side, control), indices, side),
    }))
  }

  async function remove() {
    const sent = await change((curve, indices) => withRemoved(curve, indices))
    if (sent) picked.value = []
  }

  const setOnward = (onward: Onward) => change((curve, indices) => withOnward(curve, indices, onward))
  /** Move what is chosen from where it is shown: for keys, several presses of which are one step. */
  function nudge(by: number, rise: number) {
    const lanes = changed((curve, indices, side) => withMovedTogether(curve, indices, by, rise, side))
    const { put } = curved.value
    // Lanes that were moved before and are chosen no more are sent with them.
    const all = new Map([...(pressed.draft.value ?? []), ...named(lanes)])
    if (lanes.length) pressed.put(all, () => put([...all.values()]))
  }
  function put(side: CurveSide, control: Control, curve: Curve) {
    void pressed.flush()
    return curved.value.put([{ side, control, curve }])
  }

  function copy(side: CurveSide, control: Control) {
    copied.value = settled(side, control)
  }

  function paste(side: CurveSide, control: Control) {
    if (!copied.value) return Promise.resolve(false)
    return put(side, control, suited(copied.value, side, neutralOf(control)))
  }

  /** Give the other side the partner of a curve. */
  function mirror(side: CurveSide, control: Control) {
    const to = otherSide(side)
    return put(to, control, suited(mirrored(settled(side, control)), to, neutralOf(control)))
  }

  return {
    controls, picked, copied, shown, stored, isPicked, isFixed, pick, pickMany, drag, add, dragAdded, commit, change,
    remove, setOnward, nudge, put, copy, paste, mirror, beats, unit,
  } // prettier-ignore
}

export type CurveEditing = ReturnType<typeof useCurveEditing>
