import type { Heard } from '../../sound/pieces'
import type { Piece } from '../../sound/piece'
import { useListening } from '../../stores/listening'

/** A press that lasts longer than this is held: what it lets one hear ends with it. */
const HELD_MS = 350

/**
 * Hear one side of a transition, or both, by a button or a key. While the transition plays, a press goes over to what is
 * asked for at the same place, and a second one plays it from its start; a press that is held goes back when it ends.
 * A press during which nothing was heard yet was no listening: it plays on.
 */
export function useHold(pieceOf: (heard: Heard) => Piece | undefined) {
  const listening = useListening()
  let pressedAt = 0
  let goBack: (() => void) | undefined

  /** `at` is when it was pressed, and let go: a page that is busy learns of both late. */
  function press(heard: Heard, at = performance.now()) {
    const piece = pieceOf(heard)
    if (!piece) return
    pressedAt = at
    const playing = listening.isSounding ? listening.piece : undefined
    const isOther = playing?.id === piece.id && playing.transition === piece.transition
    if (playing && isOther && playing.url(0) !== piece.url(0)) {
      goBack = () => listening.renew(playing, listening.position)
      listening.renew(piece, listening.position)
      return
    }
    goBack = playing ? undefined : () => listening.stop()
    listening.play(piece)
  }

  function release(at = performance.now()) {
    if (at - pressedAt >= HELD_MS && listening.state !== 'loading') goBack?.()
    goBack = undefined
  }

  return { press, release }
}
