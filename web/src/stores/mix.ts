import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, ApiError, data } from '../api/client'
import { mixOf } from '../api/mixOf'
import { patched } from '../api/patched'
import type { Command, Mix, MixAnswer, MixChange } from '../api/types'
import { Clock } from '../time/clock'
import { changeQueue } from './queue'
import { gestureNow } from './gesture'
import { settleAll } from './resting'

/**
 * The mix that is open. Changes go to the server one after the other, each on the version that the one before it
 * made; what comes back is the mix as it stands.
 */
export const useMix = defineStore('mix', () => {
  const mix = shallowRef<Mix>()
  /** What the server said of each mix that is held: a change is told against it. */
  const answers = new WeakMap<Mix, MixAnswer>()
  const missing = ref(false)
  const failure = ref('')

  const { change, settled } = changeQueue(
    () => mix.value,
    take,
    () => open(mix.value!.id),
  )

  const plan = computed(() => mix.value?.plan)
  /** The clock of the mix first, then those by which its entries go. */
  const clocks = computed(() => plan.value?.clocks.map((points) => new Clock(points)) ?? [])
  const clock = computed(() => clocks.value[0])

  /** Open a mix, or look at it again. */
  async function open(id: string) {
    if (mix.value?.id !== id) mix.value = undefined
    missing.value = false
    failure.value = ''
    try {
      take(taken(await data(api.GET('/api/mixes/{mix_id}', { params: { path: { mix_id: id } } }))))
    } catch (error) {
      if ((error as ApiError).status === 404) missing.value = true
      else failure.value = (error as Error).message
    }
  }

  function taken(answer: MixAnswer): Mix {
    const fresh = mixOf(answer)
    answers.set(fresh, answer)
    return fresh
  }

  /** Use what came from the server unless something newer is here already. */
  function take(fresh: Mix) {
    if (mix.value?.id === fresh.id && mix.value.version > fresh.version) return
    mix.value = fresh
  }

  /** A mix was changed somewhere: look again if it is this one and newer. */
  async function heard(id: string, version: number | null) {
    if (mix.value?.id !== id) return
    await settled()
    if (version === null || version > mix.value.version) await open(id)
  }

  /** A track was changed somewhere: look again if this mix has it in an older version. */
  async function heardOfTrack(id: string, version: number) {
    const layered = plan.value?.layers.some(
      ({ layer: { sound }, track_version: known }) =>
        sound.of === 'track' && sound.track_id === id && (known ?? 0) < version,
    )
    if (layered || plan.value?.entries.some((e) => e.track_id === id && e.track_version < version))
      await open(mix.value!.id)
  }

  function send(command: Command): Promise<boolean> {
    const gesture = gestureNow()
    // What was pressed before it goes before it: a layer that is taken out is not put back by an arrow.
    void settleAll()
    return changed((on) =>
      data(api.POST('/api/mixes/{mix_id}/commands', { ...here(), body: { ...on, command, gesture } })),
    )
  }

  async function undo(): Promise<boolean> {
    await settleAll()
    return changed((on) => data(api.POST('/api/mixes/{mix_id}/undo', { ...here(), body: on })))
  }

  async function redo(): Promise<boolean> {
    await settleAll()
    return changed((on) => data(api.POST('/api/mixes/{mix_id}/redo', { ...here(), body: on })))
  }

  /** Make a state of the history the one that counts. */
  async function goTo(step: number): Promise<boolean> {
    await settleAll()
    const path = { mix_id: mix.value!.id, step }
    return changed((on) =>
      data(api.POST('/api/mixes/{mix_id}/history/{step}/go', { params: { path }, body: on })),
    )
  }

  /** Have a change made, and told against what is here. */
  function changed(step: (on: { version: number; have?: string }) => Promise<MixAnswer | MixChange>) {
    return change(async (version) => {
      const before = answers.get(mix.value!)
      const answer = await step({ version, have: before?.tag })
      return taken('since' in answer ? patched(before!, answer) : answer)
    })
  }

  function here() {
    return { params: { path: { mix_id: mix.value!.id } } }
  }

  return { mix, plan, clock, clocks, missing, failure, open, heard, heardOfTrack, send, undo, redo, goTo }
})
