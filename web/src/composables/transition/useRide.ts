import { useEventListener, useLocalStorage, useRafFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, type Ref } from 'vue'
import type { Command, Control, PlannedTransition, Side } from '../../api/types'
import { onTurned, turn } from '../../sound/controller'
import { valueAt } from '../../time/curve'
import type { CurveEditing } from './useCurveEditing'

/** The controls of the controller on the screen; those of another are learnt. */
export const ON_SCREEN: Record<Side, number> = { outgoing: 1, incoming: 2 }
/** So long after the last move of a controller that tells of no release, a ride is over. */
const OVER_MS = 600

/**
 * Moves made while listening, recorded as a curve. A ride begins with the first move of a fader while its side is heard in
 * the transition, and ends when the fader is let go: what lies before and after it stays.
 *
 * `placeOf` says where in the curves of a side one is at this moment; undefined outside of them.
 */
export function useRide(
  planned: Ref<PlannedTransition>,
  editing: Pick<CurveEditing, 'shown'>,
  placeOf: (side: Side) => number | undefined,
  send: (command: Command) => Promise<boolean>,
) {
  const control = ref<Control>('volume')
  const learnt = useLocalStorage<Record<string, Side>>('fernbrook-controller', {})
  const learning = ref<Side>()
  /** Where each fader stands while it is ridden; otherwise it follows its curve. */
  const held = ref<Partial<Record<Side, number>>>({})
  const follows = ref<Record<Side, number>>({ outgoing: 1, incoming: 1 })
  const moves: Record<Side, [number, number][]> = { outgoing: [], incoming: [] }
  /** What a ride is of: it stays that, wherever one goes before it is over. */
  const ridden: Partial<Record<Side, { out_id: string; in_id: string; control: Control }>> = {}
  const timers: Partial<Record<Side, number>> = {}

  const shown = computed<Record<Side, number>>(() => ({ ...follows.value, ...held.value }))
  const isRiding = computed(() => Object.keys(held.value).length > 0)

  useRafFn(() => {
    for (const side of ['outgoing', 'incoming'] as const) {
      const place = placeOf(side)
      const value = held.value[side]
      if (value !== undefined) note(side, place, value)
      else {
        const curve = editing.shown(side, control.value)
        follows.value[side] = valueAt(curve, place ?? (side === 'outgoing' ? 0 : 1))
      }
    }
  })

  function note(side: Side, place: number | undefined, value: number) {
    if (place === undefined) return
    const last = moves[side][moves[side].length - 1]
    if (!last || place > last[0]) moves[side].push([place, value])
  }

  function sideOf(number: number): Side | undefined {
    const onScreen = (['outgoing', 'incoming'] as const).find((side) => ON_SCREEN[side] === number)
    return learnt.value[number] ?? onScreen
  }

  const stop = onTurned((number, value) => {
    if (learning.value) {
      learnt.value = { ...learnt.value, [number]: learning.value }
      learning.value = undefined
    }
    const side = sideOf(number)
    if (!side) return
    if (held.value[side] === undefined) {
      const { out_id, in_id } = planned.value.transition
      moves[side] = []
      ridden[side] = { out_id, in_id, control: control.value }
    }
    note(side, placeOf(side), held.value[side] ?? shown.value[side])
    held.value = { ...held.value, [side]: value }
    window.clearTimeout(timers[side])
    if (!pressed) timers[side] = window.setTimeout(() => void release(side), OVER_MS)
  })
  onScopeDispose(stop)

  /** Whether a fader on the screen is held: then its release ends the ride, however long it rests. */
  let pressed = false
  function press() {
    pressed = true
  }
  useEventListener(window, 'pointerup', () => {
    if (!pressed) return
    pressed = false
    for (const side of Object.keys(held.value) as Side[]) void release(side)
  })

  async function release(side: Side) {
    const made = moves[side]
    moves[side] = []
    held.value = Object.fromEntries(Object.entries(held.value).filter(([s]) => s !== side))
    const of = ridden[side]
    if (of && made.length > 1) await send({ kind: 'record_ride', ...of, side, moves: made })
  }

  const move = (side: Side, value: number) => turn(ON_SCREEN[side], value)

  return { control, shown, isRiding, learning, press, move }
}
