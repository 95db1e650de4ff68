import { ref, shallowRef } from 'vue'
import { api, data } from '../../api/client'
import { planOf } from '../../api/mixOf'
import type { PlannedTransition } from '../../api/types'
import { RATE } from '../../sound/player'
import { transitionPiece } from '../../sound/pieces'
import type { Piece } from '../../sound/piece'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'
import { Clock } from '../../time/clock'
import { attempt } from '../page/attempt'
import { samePlace } from '../mix/useRenewal'

/** A take under a letter that does not say which it is. */
export interface BlindTake {
  letter: string
  number: number
  piece: Piece
  plan: ReturnType<typeof planOf>
}

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ'

/**
 * Takes of a transition compared by ear alone: in an order that nobody knows, all at the loudness of the softest, one
 * taken over by the other at the same beat.
 */
export function useBlind() {
  const mix = useMix()
  const listening = useListening()
  const takes = shallowRef<BlindTake[]>([])
  const now = ref<string>()
  const isPreparing = ref(false)

  /** Plan all takes and measure them; the first is heard when all are ready. */
  async function begin(planned: PlannedTransition, around: number) {
    isPreparing.value = true
    takes.value = []
    await attempt(async () => {
      // One after the other: each is rendered to be measured.
      const made = []
      for (const take of planned.takes) made.push(await prepared(planned, take.number, around))
      const softest = Math.min(...made.map((m) => m.lufs ?? Infinity))
      takes.value = shuffled(made).map(({ number, plan, id, lufs }, i) => ({
        letter: LETTERS[i]!,
        number,
        plan,
        piece: pieceOf(planned, plan, id, around, lufs === null ? 0 : softest - lufs),
      }))
    })
    isPreparing.value = false
    if (takes.value[0]) hear(takes.value[0].letter)
  }

  async function prepared(planned: PlannedTransition, number: number, around: number) {
    const { out_id, in_id } = planned.transition
    const path = { mix_id: mix.mix!.id }
    const command = { kind: 'use_take' as const, out_id, in_id, number }
    const trial = await data(api.POST('/api/mixes/{mix_id}/trials', { params: { path }, body: command }))
    const plan = planOf(trial.plan)
    const { start, end } = pieceOf(planned, plan, trial.id, around, 0)
    const query = { start, end, trial: trial.id }
    const { lufs } = await data(api.GET('/api/mixes/{mix_id}/loudness', { params: { path, query } }))
    return { number, plan, id: trial.id, lufs }
  }

  function pieceOf(
    planned: PlannedTransition,
    plan: BlindTake['plan'],
    trial: string,
    around: number,
    gainDb: number,
  ): Piece {
    const here = plan.transitions[planned.index]!
    return transitionPiece({ id: mix.mix!.id, plan }, new Clock(plan.clocks[0]!), here, {
      trial,
      around,
      gainDb,
    })
  }

  /** Hear one of them, from where another is heard now. */
  function hear(letter: string) {
    const take = takes.value.find((t) => t.letter === letter)
    const before = takes.value.find((t) => t.piece.id === listening.piece?.id)
    if (!take) return
    now.value = letter
    if (before && listening.state === 'playing') {
      const seconds = samePlace(before, take, listening.position / RATE)
      listening.renew(take.piece, Math.round(seconds * RATE))
    } else listening.play(take.piece)
  }

  function end() {
    if (takes.value.some((t) => t.piece.id === listening.piece?.id)) listening.stop()
    takes.value = []
    now.value = undefined
  }

  return { takes, now, isPreparing, begin, hear, end }
}

function shuffled<T>(all: T[]): T[] {
  return all
    .map((value) => ({ value, place: Math.random() }))
    .sort((a, b) => a.place - b.place)
    .map(({ value }) => value)
}
