import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { useMeter } from './meter'
import { Player, RATE, type PlayerReport } from '../sound/player'

export type ListeningState = 'idle' | 'loading' | 'playing' | 'paused' | 'over' | 'error'

/** What is, or can be, listened to: a span of a mix or a track. Frames count from the start of that mix or track. */
export interface Piece {
  kind: 'mix' | 'track'
  id: string
  /** Words for the listening bar. */
  label: string
  start: number
  end: number
  /** The sound's address, from a frame on. */
  url: (from: number) => string
  /** Short enough to be kept whole, so that it can loop. */
  loops: boolean
  /** Whether its address gives one round from a frame on, back to that frame. */
  wraps?: boolean
}

/** The one player of the page, and what it plays. */
export const useListening = defineStore('listening', () => {
  const piece = shallowRef<Piece>()
  const state = ref<ListeningState>('idle')
  const error = ref('')
  const position = ref(0)
  const loop = ref(false)
  const level = ref(1)
  const arrived = ref({ from: 0, to: 0 })
  let base = 0
  let reportedAt = 0

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
    reportedAt = performance.now()
    arrived.value = arrivedBy(report)
    if (state.value === 'error') return
    if (report.over) state.value = 'over'
    else if (!report.running) state.value = report.end > 0 ? 'paused' : state.value
    else state.value = report.starved || report.end === 0 ? 'loading' : 'playing'
  }

  /** Play a piece from a frame, its start without one. */
  function play(next: Piece, from = next.start) {
    piece.value = next
    base = Math.min(Math.max(from, next.start), next.end)
    position.value = base
    arrived.value = { from: base, to: base }
    state.value = 'loading'
    error.value = ''
    meter.forget()
    void player.play({ url: next.url(base), loop: loop.value && next.loops, keepAll: next.loops })
  }

  /** Go to a frame: within what has arrived at once, else by asking anew. */
  function seek(frame: number) {
    const current = piece.value
    if (!current) return
    const { from, to } = arrived.value
    if (frame >= from && frame < to && state.value !== 'error') {
      position.value = frame
      player.seek(frame - base)
      player.run(true)
    } else play(current, frame)
  }

  /** Hold or go on; from the start when it is over. */
  function toggle() {
    const current = piece.value
    if (!current) return
    if (state.value === 'playing' || state.value === 'loading') player.run(false)
    else if (state.value === 'paused') player.run(true)
    else play(current)
  }

  function stop() {
    player.stop()
    if (state.value !== 'idle') state.value = 'paused'
  }

  function setLoop(on: boolean) {
    loop.value = on
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
    return Math.max(0, at + (performance.now() - reportedAt) / 1000 - player.latency)
  }

  const isSounding = computed(() => state.value === 'playing' || state.value === 'loading')

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
    toggle,
    stop,
    setLoop,
    setLevel,
    secondsIn,
    heardIn,
    peak: () => player.peak(),
  }
})
