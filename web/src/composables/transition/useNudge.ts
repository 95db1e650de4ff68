import { computed, watch, type Ref } from 'vue'
import { api, data } from '../../api/client'
import type { Command, PlannedTransition } from '../../api/types'
import { attempt } from '../page/attempt'
import { useKeys } from '../page/useKeys'
import { useResting } from '../page/useResting'

const MOST_MS = 100
const COARSE_MS = 10

/** The track whose grid would be slid. */
export interface Slid {
  trackId: string
  title: string
  /** How fast it plays, as a share of its own speed. */
  speed: number
}

/**
 * The incoming against one click, in milliseconds: moved by keys while it plays, and kept for this transition alone or as
 * a slide of its grid.
 */
export function useNudge(
  planned: Ref<PlannedTransition>,
  incoming: Ref<Slid>,
  send: (command: Command) => Promise<boolean>,
) {
  const pressed = useResting<number>()
  const ms = computed(() => pressed.draft.value ?? planned.value.transition.nudge_ms)
  const pair = () => {
    const { out_id, in_id } = planned.value.transition
    return { out_id, in_id }
  }
  watch(() => `${pair().out_id} ${pair().in_id}`, pressed.leave)

  const set = (to: number) => send({ kind: 'set_nudge', ...pair(), ms: to })

  function nudge(by: number) {
    const to = Math.min(Math.max(ms.value + by, -MOST_MS), MOST_MS)
    const command = { kind: 'set_nudge' as const, ...pair(), ms: to }
    pressed.put(to, () => send(command))
  }

  /**
   * Slide the grid of the incoming in place of this. What sounds later by so much has its beats earlier in the file: so
   * that it lies as it is heard now, its lines move the other way.
   */
  const keepInGrid = () =>
    attempt(async () => {
      await pressed.flush()
      const { trackId, title, speed } = incoming.value
      const path = { params: { path: { track_id: trackId } } }
      const { version } = await data(api.GET('/api/tracks/{track_id}/markup', path))
      const command = { kind: 'slide' as const, by_s: (-ms.value / 1000) * speed }
      await data(api.POST('/api/tracks/{track_id}/markup/commands', { ...path, body: { version, command } }))
      await set(0)
      return title
    }, `The grid of ‘${incoming.value.title}’ is moved; every mix that has it follows.`)

  useKeys('Against the click', [
    {
      keys: [',', '<'],
      label: 'The incoming 1 ms earlier; with shift, 10 ms',
      run: (event) => nudge(event.shiftKey ? -COARSE_MS : -1),
    },
    {
      keys: ['.', '>'],
      label: 'The incoming 1 ms later; with shift, 10 ms',
      run: (event) => nudge(event.shiftKey ? COARSE_MS : 1),
    },
  ])

  return { ms, set, keepInGrid }
}
