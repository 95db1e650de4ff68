import { watch } from 'vue'
import type { Mix, Plan } from '../../api/types'
import { RATE } from '../../sound/player'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'
import { Clock } from '../../time/clock'
import { entryBeatOf, mixBeatOf } from '../../time/entryClock'

/** What plays of a mix goes on as the mix is changed: from the same place in the music, without a stop. */
export function useRenewal() {
  const mix = useMix()
  const listening = useListening()

  watch(
    () => mix.mix,
    (now, before) => {
      if (!now || now.id !== before?.id || now.version === before.version) return
      const piece = listening.piece
      if (piece?.kind !== 'mix' || piece.id !== now.id || listening.state === 'idle') return
      const next = piece.again?.(now)
      if (!next) return
      const seconds = samePlace(before, now, listening.position / RATE)
      listening.renew(next, Math.round(seconds * RATE))
    },
  )
}

/** The moment of a changed mix at which the same beat of the same entry sounds: of the one that was there first. */
export function samePlace(before: Pick<Mix, 'plan'>, now: Pick<Mix, 'plan'>, seconds: number): number {
  const was = before.plan.entries.find((e) => e.start_s <= seconds && seconds < e.end_s)
  const is = was && now.plan.entries.find((e) => e.id === was.id)
  if (!was || !is) return seconds
  const beat = entryBeatOf(was, clockOf(before.plan, was.clock).beatAt(seconds))
  return clockOf(now.plan, is.clock).timeAt(mixBeatOf(is, beat))
}

function clockOf(plan: Plan, place: number): Clock {
  return new Clock(plan.clocks[place]!)
}
