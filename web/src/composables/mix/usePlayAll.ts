import { computed, ref, watch } from 'vue'
import { transitionPiece } from '../../sound/pieces'
import type { Piece } from '../../sound/piece'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'

/** Beats that are heard before and after each overlap, until the next one begins. */
const AROUND_BEATS = 16

/** All transitions of a mix, one after the other, without what lies between; `at` is told which one is heard. */
export function usePlayAll(at: (index: number) => void) {
  const mix = useMix()
  const listening = useListening()
  const isOn = ref(false)

  const isPlaying = computed(
    () => isOn.value && listening.piece?.transition !== undefined && listening.isSounding,
  )

  function pieceAt(index: number): Piece | undefined {
    const planned = mix.plan?.transitions[index]
    if (!mix.mix || !mix.clock || !planned) return undefined
    return transitionPiece(mix.mix, mix.clock, planned, { around: AROUND_BEATS })
  }

  /** Play from a transition on to the last one. */
  function play(from: number) {
    const first = pieceAt(from)
    if (!first) return
    isOn.value = true
    listening.setLoop(false)
    listening.play(first, first.start, () => pieceAt((listening.piece?.transition ?? 0) + 1))
  }

  function stop() {
    isOn.value = false
    listening.stop()
  }

  watch(
    () => listening.piece?.transition,
    (index) => {
      if (index === undefined) isOn.value = false
      else if (isOn.value) at(index)
    },
  )

  return { isPlaying, play, stop }
}
