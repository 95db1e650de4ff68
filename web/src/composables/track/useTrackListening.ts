import { useStorage } from '@vueuse/core'
import { computed, shallowRef, watch, type Ref } from 'vue'
import type { Loop, Track } from '../../api/types'
import { loopPiece, roundPiece, trackPiece } from '../../sound/pieces'
import { RATE } from '../../sound/player'
import { useListening } from '../../stores/listening'
import { useMarkup } from '../../stores/markup'
import type { Loops } from './useLoops'

/** A track as it is heard while its grid is looked at: from the cursor, in bars that go round, with a click. */
export function useTrackListening(
  id: Ref<string>,
  track: Ref<Track | undefined>,
  cursor: Ref<number>,
  loops: Loops,
) {
  const markup = useMarkup()
  const listening = useListening()
  const click = useStorage('fernbrook.click', true)
  const clickDb = useStorage('fernbrook.clickDb', -6)
  const loopBars = useStorage('fernbrook.loopBars', 0)
  const clicks = computed(() => (click.value && markup.grid ? clickDb.value : undefined))
  const playhead = computed(() => listening.secondsIn('track', id.value))
  /** The loop that goes round, as it was when it began to. */
  const round = shallowRef<Loop>()

  // A grid that changed while it is heard is heard changed.
  watch([() => markup.track?.version, clicks, loopBars], () => {
    if (playhead.value === undefined || !listening.isSounding) return
    const loop = loops.loops.value.find((l) => l.id === round.value?.id)
    if (loop && listening.piece?.wraps) playLoop(loop, playhead.value)
    else play(playhead.value)
  })

  function play(from = cursor.value) {
    if (!track.value) return
    round.value = undefined
    const beats = markup.beats
    const piece =
      loopBars.value && beats
        ? loopPiece(track.value, beats, from, loopBars.value, clicks.value)
        : trackPiece(track.value, clicks.value)
    if (piece.loops && !listening.loop) listening.setLoop(true)
    listening.play(piece, Math.min(Math.max(piece.start, Math.round(from * RATE)), piece.end - 1))
  }

  /** Put the cursor at a moment; what plays goes on from there. */
  function place(seconds: number) {
    cursor.value = seconds
    if (playhead.value !== undefined && listening.isSounding) play(seconds)
  }

  function playLoop(loop: Loop, from?: number) {
    if (!track.value) return
    round.value = loop
    const span = loops.spanOf(loop)
    if (!listening.loop) listening.setLoop(true)
    const piece = roundPiece(track.value, span.from, span.to, clicks.value)
    const at = Math.round((from ?? span.from) * RATE)
    listening.play(piece, at < piece.end ? at : piece.start)
  }

  /** What was heard before a key was held, where it goes back to. */
  let before: { seconds: number; sounding: boolean } | undefined

  function hold(seconds: number) {
    before = { seconds: playhead.value ?? cursor.value, sounding: listening.isSounding }
    if (track.value)
      listening.play(trackPiece(track.value, clicks.value), Math.max(0, Math.round(seconds * RATE)))
  }

  function release() {
    if (!before) return
    if (before.sounding) play(before.seconds)
    else listening.stop()
    before = undefined
  }

  return { click, clickDb, loopBars, playhead, play, place, playLoop, hold, release }
}
