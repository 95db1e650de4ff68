import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { useMeter } from './meter'
import type { Piece } from '../sound/piece'
import { Player, RATE } from '../sound/player'
import type { PlayerReport } from '../sound/worklets/messages'

export type ListeningState = 'idle' | 'loading' | 'playing' | 'paused' | 'over' | 'error'

/** So long after a change it is heard, that what is heard then has time to arrive. */
const LEAD_FRAMES = 0.15 * RATE
/** The clock of the page may be so far ahead of that of the sound, which goes in steps. */
const CLOCK_STEP_S = 0.05

/** The one player of the page, and what it plays. */
export const useListening = defineStore('listening', () => {
  const piece = shallowRef<Piece>()
  const state = ref<ListeningState>('idle')
  const error = ref('')
  const position = ref(0)
  const loop = ref(false)
  const level = ref(1)
  const isSounding = computed(() => state.value === 'playing' || state.value === 'loading')
  const arrived = ref({ from: 0, to: 0 })
  let base = 0
  let reported = { at: 0, time: 0 }
  /** Whether what has arrived is of a state of the mix that has passed. */
  let isStale = false
  /** What follows when the piece is over. */
  let onward: (() => Piece | undefined) | undefined

  const meter = useMeter()

  const player = new Player(
    onReport,
    (e) => {
      state.value = 'error'
      error.value = e.message
    },
    (report) => {
      if (state.value === 'playing') meter.hear(report)
    },
  )

  /** The frame of the piece that is a number of frames into what was asked for. */
  function placeOf(frames: number): number {
    const current = piece.value
    if (!current?.wraps) return base + frames
    return current.start + ((base - current.start + frames) % (current.end - current.start))
  }

  /** What has arrived; of a round nothing that can be gone to, for it begins where it was asked for. */
  function arrivedBy(report: PlayerReport) {
    if (piece.value?.wraps) return { from: base, to: base }
    return { from: base + report.kept, to: base + report.end }
  }

  function onReport(report: PlayerReport) {
    position.value = placeOf(report.position)
    reported = { at: performance.now(), time: report.time }
    arrived.value = arrivedBy(report)
    if (state.value === 'error') return
    if (report.over) state.value = 'over'
    else if (!report.running) state.value = 'paused'
    else state.value = report.starved || report.end === 0 ? 'loading' : 'playing'
  }

  /** Play a piece from a frame, its start without one; `then` says what follows when it is over. */
  function play(next: Piece, from = next.start, then?: () => Piece | undefined) {
    piece.value = next
    isStale = false
    onward = then
    base = Math.min(Math.max(from, next.start), next.end)
    position.value = base
    arrived.value = { from: base, to: base }
    state.value = 'loading'
    error.value = ''
    meter.forget()
    const looped = loop.value && next.loops && !then
    void player.play({ url: next.url(base), loop: looped, keepAll: next.loops }).then(lineUp)
  }

  /** Make ready what follows when the piece is over. */
  function lineUp() {
    const current = piece.value
    const next = onward?.()
    if (!current || !next) return
    const options = { url: next.url(next.start), loop: false, keepAll: next.loops }
    void player.follow(options, current.end - base, () => taken(next, next.start))
  }

  /** A piece has taken the place of the one that played. */
  function taken(next: Piece, from: number) {
    piece.value = next
    base = from
    arrived.value = { from, to: from }
    if (loop.value && next.loops) onward ??= () => piece.value
    lineUp()
  }

  /** Go to a frame: within what has arrived at once, else by asking again. */
  function seek(frame: number) {
    const current = piece.value
    if (!current) return
    const { from, to } = isStale ? { from: 0, to: 0 } : arrived.value
    if (frame >= from && frame < to && state.value !== 'error') {
      position.value = frame
      player.seek(frame - base)
      player.run(true)
    } else play(current, frame, onward)
  }

  /**
   * Go on with a piece that takes the place of the one that plays: from a moment from now on, with `frame` of it where the
   * other has its frame of now. What is held or over is asked for again when it goes on. Where the other has no such frame,
   * it begins at its start.
   */
  function renew(next: Piece, frame: number) {
    const lead = frame - position.value
    if (state.value !== 'playing') {
      const within = frame >= next.start && frame < next.end ? frame : next.start
      if (state.value === 'loading') return play(next, within, onward)
      piece.value = next
      position.value = within
      isStale = true
      return // What is held goes on from here; what is over begins again.
    }
    const at = position.value + LEAD_FRAMES
    const from = Math.round(at + lead)
    if (from < next.start || from >= next.end) return play(next, next.start, onward)
    const options = { url: next.url(from), loop: false, keepAll: next.loops }
    void player.follow(options, Math.round(at) - base, () => taken(next, from))
  }

  /** Hold or go on; from the start when it is over. */
  function toggle() {
    const current = piece.value
    if (!current) return
    if (isStale && state.value === 'paused') return play(current, position.value)
    if (isSounding.value) stop()
    else if (state.value === 'paused') player.run(true)
    else play(current)
  }

  /** Hold; what has not arrived yet goes on to arrive. */
  function stop() {
    if (!isSounding.value) return
    player.run(false)
    state.value = 'paused'
  }

  function setLoop(on: boolean) {
    loop.value = on
    if (onward) {
      onward = undefined
      player.unfollow()
    }
    player.setLoop(on && (piece.value?.loops ?? false))
  }

  function setLevel(value: number) {
    level.value = value
    player.setLevel(value)
  }

  /** Where the playhead is in seconds of the mix or track that plays, or undefined. */
  function secondsIn(kind: Piece['kind'], id: string): number | undefined {
    const current = piece.value
    if (!current || current.kind !== kind || current.id !== id || state.value === 'idle') return undefined
    return position.value / RATE
  }

  /** What is heard at this moment: the latest report, the time since then, and the way to the ears. */
  function heardIn(kind: Piece['kind'], id: string): number | undefined {
    const at = secondsIn(kind, id)
    if (at === undefined || state.value !== 'playing') return at
    const elapsed = Math.min(
      (performance.now() - reported.at) / 1000,
      player.time - reported.time + CLOCK_STEP_S,
    )
    return Math.max(0, at + elapsed - player.latency)
  }

  return {
    piece,
    state,
    error,
    position,
    loop,
    level,
    isSounding,
    play,
    seek,
    renew,
    toggle,
    stop,
    setLoop,
    setLevel,
    secondsIn,
    heardIn,
    peak: () => player.peak(),
  }
})
