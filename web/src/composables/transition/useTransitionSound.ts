import { useLocalStorage } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'
import type { PlannedTransition } from '../../api/types'
import { mixPiece, transitionPiece, type Heard } from '../../sound/pieces'
import { RATE } from '../../sound/player'
import { useListening } from '../../stores/listening'
import { useMarks } from '../../stores/marks'
import { useMix } from '../../stores/mix'

const CLICK_DB = -9

/** What of a transition is heard, and of the mix around it. */
export function useTransitionSound(planned: Ref<PlannedTransition | undefined>) {
  const mix = useMix()
  const listening = useListening()
  const marks = useMarks()
  const click = ref(false)
  /** How many beats are heard before and after the overlap. */
  const around = useLocalStorage('fernbrook-around', 8)
  const hearing = computed(() => ({
    clickDb: click.value ? CLICK_DB : undefined,
    around: around.value,
  }))

  function pieceOf(heard: Heard, handOverOnly = false) {
    if (!mix.mix || !mix.clock || !planned.value) return undefined
    return transitionPiece(mix.mix, mix.clock, planned.value, { ...hearing.value, heard, handOverOnly })
  }

  /** Only where the one gives way to the other. */
  function hearHandOver() {
    const piece = pieceOf('both', true)
    if (piece) listening.play(piece)
  }

  /** Hear this transition from a place in it; the mix from there where the place lies outside. */
  function hearFrom(seconds: number) {
    const piece = pieceOf('both')
    if (!piece || !mix.mix) return
    const frame = Math.round(seconds * RATE)
    listening.play(frame >= piece.start && frame < piece.end ? piece : mixPiece(mix.mix), frame)
  }

  function hearMix(seconds: number) {
    if (mix.mix) listening.play(mixPiece(mix.mix), Math.round(seconds * RATE))
  }

  /** Mark what is heard at this moment. */
  function mark() {
    const at = mix.mix && listening.heardIn('mix', mix.mix.id)
    if (at !== undefined) marks.add(at)
  }

  return { click, around, pieceOf, hearHandOver, hearFrom, hearMix, mark }
}
