import { watch } from 'vue'
import { api, data } from '../../api/client'
import { planOf } from '../../api/mixOf'
import type { Command, Plan } from '../../api/types'
import { spanPiece, transitionPiece } from '../../sound/pieces'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'
import { Clock } from '../../time/clock'
import { EntryClock, mixBeatOf } from '../../time/entryClock'
import { attempt } from '../page/attempt'

interface Trial {
  id: string
  plan: Plan
}

/** Hearing what a command would make of the mix, before it is done. A trial is made once for a state of the mix. */
export function useTrials() {
  const mix = useMix()
  const listening = useListening()
  const made = new Map<string, Promise<Trial>>()
  // What the server does not know any more, after a restart for one, is made again when it is asked for again.
  watch(
    () => listening.state,
    (state) => state === 'error' && made.clear(),
  )

  function trialOf(command: Command): Promise<Trial> {
    const { id, version } = mix.mix!
    const key = `${id}/${version}/${JSON.stringify(command)}`
    const known = made.get(key)
    if (known) return known
    const trial = data(
      api.POST('/api/mixes/{mix_id}/trials', { params: { path: { mix_id: id } }, body: command }),
    ).then((answer) => ({ id: answer.id, plan: planOf(answer.plan) }))
    trial.catch(() => made.delete(key))
    made.set(key, trial)
    return trial
  }

  /** Hear the transition at a place, as it would be after a command. */
  function hear(command: Command, place: number) {
    return attempt(async () => {
      const { id: mixId } = mix.mix!
      const { id, plan } = await trialOf(command)
      const transition = plan.transitions[place]
      if (!transition) return
      listening.play(
        transitionPiece({ id: mixId, plan }, new Clock(plan.clocks[0]!), transition, { trial: id }),
      )
    })
  }

  /** Hear an entry around where a beat of its track's grid is heard last, as it would be after a command. */
  function hearEntry(command: Command, entryId: string, gridBeat: number, around: number) {
    return attempt(async () => {
      const { id: mixId } = mix.mix!
      const { id, plan } = await trialOf(command)
      const entry = plan.entries.find((e) => e.id === entryId)
      const beat = entry && EntryClock.of(entry, undefined).placesOf(gridBeat).at(-1)
      if (!entry || beat === undefined) return
      const clock = new Clock(plan.clocks[entry.clock]!)
      const [start, end] = [beat - around, beat + around].map((b) => clock.timeAt(mixBeatOf(entry, b)))
      listening.play(spanPiece({ id: mixId, plan }, start!, end!, entry.title, { trial: id }))
    })
  }

  /** Hear a layer and some beats around it, as it would be after a command. */
  function hearLayer(command: Command, layerId: string, around: number) {
    return attempt(async () => {
      const { id: mixId } = mix.mix!
      const { id, plan } = await trialOf(command)
      const placed = plan.layers.find((x) => x.layer.id === layerId)
      if (!placed) return
      const clock = new Clock(plan.clocks[placed.clock]!)
      const [start, end] = [placed.start_beat - around, placed.end_beat + around].map((b) => clock.timeAt(b))
      listening.play(spanPiece({ id: mixId, plan }, start!, end!, placed.words, { trial: id }))
    })
  }

  return { hear, hearEntry, hearLayer }
}
