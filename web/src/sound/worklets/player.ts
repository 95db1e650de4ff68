import { Frames } from './frames'
import type { PlayerReport, ToPlayer } from './messages'

/** Frames over which the stream that takes over fades in. */
const FADE = 512
/** So many frames of it must be there before it does. */
const READY = 4096
const REPORT_EVERY = 512
const KEPT_S = 10
/**
 * What ran out of frames goes on when so many seconds of them are there: one pause instead of a stutter. Twice as many
 * each time it happens again.
 */
const STORE_S = 0.25
const MOST_STORE_S = 2

interface Stream {
  session: number
  frames: Frames
  loop: boolean
  keepAll: boolean
}

const nothing = (session: number): Stream => ({ session, frames: new Frames(), loop: false, keepAll: true })

/**
 * Plays frames that the page hands over. Everything is addressed by frame, so seeking and looping are exact.
 *
 * A stream may be made ready to take over from the one that plays, at one of its frames: what is changed while it is
 * listened to is then heard from there on, without a stop.
 */
class Player extends AudioWorkletProcessor {
  private now = nothing(0)
  private position = 0
  private running = false
  private starved = false
  /** The frames that must lie ahead before it goes on, none while it plays; and how many it will be the next time. */
  private waitsFor = 0
  private store = STORE_S
  private coming?: Stream & { at: number }
  /** The stream that has been left, where it is, and how many of its frames are still to be heard. */
  private going?: { frames: Frames; position: number; left: number }
  private sinceReport = 0

  constructor() {
    super()
    this.port.onmessage = ({ data }: { data: ToPlayer }) => this.told(data)
  }

  private told(message: ToPlayer) {
    const { session } = message
    if (message.type === 'begin') this.begin(message)
    else if (message.type === 'ready')
      this.coming = {
        session,
        frames: new Frames(),
        loop: message.loop,
        keepAll: message.keepAll,
        at: message.at,
      }
    else if (message.type === 'alone') this.coming = undefined
    else if (session === this.coming?.session) return this.feed(this.coming.frames, message)
    else if (session !== this.now.session) return
    else this.command(message)
    this.report()
  }

  private begin({ session, loop, keepAll, running }: Extract<ToPlayer, { type: 'begin' }>) {
    this.now = { ...nothing(session), loop, keepAll }
    this.position = 0
    this.running = running
    this.starved = false
    this.waitsFor = 0
    this.store = STORE_S
    this.coming = this.going = undefined
  }

  private command(message: ToPlayer) {
    const { frames } = this.now
    if (message.type === 'run') this.running = message.running
    else if (message.type === 'seek') {
      this.position = Math.min(Math.max(message.frame, frames.kept), frames.end)
      this.waitsFor = 0
    } else if (message.type === 'loop') this.now.loop = message.loop
    else this.feed(frames, message)
  }

  private feed(frames: Frames, message: ToPlayer) {
    if (message.type === 'frames') frames.add(message.frames)
    else if (message.type === 'complete') frames.isComplete = true
  }

  /** Go over to the stream that was made ready, once its frame has come and enough of it is there. */
  private takeOver() {
    const { coming } = this
    if (!coming || this.position < coming.at) return
    const late = this.position - coming.at
    if (coming.frames.end < late + READY && !coming.frames.isComplete) return
    this.going = { frames: this.now.frames, position: this.position, left: FADE }
    this.now = coming
    this.position = late
    this.coming = undefined
    this.report()
  }

  process(_: Float32Array[][], outputs: Float32Array[][]) {
    const [left, right] = outputs[0] as [Float32Array, Float32Array]
    if (this.running) {
      this.takeOver()
      this.play(left, right)
      if (!this.now.keepAll) this.now.frames.letGoBefore(this.position - KEPT_S * sampleRate)
    }
    this.sinceReport += left.length
    if (this.sinceReport >= REPORT_EVERY) this.report()
    return true
  }

  private play(left: Float32Array, right: Float32Array) {
    const { frames, loop } = this.now
    let done = 0
    while (done < left.length) {
      if (loop && this.position >= frames.end && frames.isComplete) this.position = frames.kept
      const run = this.hasEnough() ? frames.from(this.position, left.length - done) : undefined
      this.starved = !run
      if (!run) {
        this.waitForMore()
        break
      }
      for (let i = 0; i < run.count; i++) {
        left[done + i] = run.samples[run.at + 2 * i]!
        right[done + i] = run.samples[run.at + 2 * i + 1]!
      }
      this.position += run.count
      done += run.count
    }
    this.fade(left, right, done)
  }

  private hasEnough(): boolean {
    const { frames } = this.now
    if (frames.isComplete || frames.end - this.position >= this.waitsFor) this.waitsFor = 0
    return !this.waitsFor
  }

  /** It ran dry in the middle: it goes on when there is a small store again. */
  private waitForMore() {
    if (this.waitsFor || !this.position || this.now.frames.isComplete) return
    this.waitsFor = this.store * sampleRate
    this.store = Math.min(2 * this.store, MOST_STORE_S)
  }

  /** Over the first frames of a stream that took over, the one that was left is heard less and less. */
  private fade(left: Float32Array, right: Float32Array, count: number) {
    const { going } = this
    for (let done = 0; going && done < count;) {
      const run =
        going.left > 0 ? going.frames.from(going.position, Math.min(count - done, going.left)) : undefined
      if (!run) {
        this.going = undefined
        return
      }
      for (let i = 0; i < run.count; i++, done++) {
        const share = going.left-- / FADE
        left[done]! += (run.samples[run.at + 2 * i]! - left[done]!) * share
        right[done]! += (run.samples[run.at + 2 * i + 1]! - right[done]!) * share
      }
      going.position += run.count
    }
  }

  private report() {
    this.sinceReport = 0
    const { frames, loop, session } = this.now
    const over = frames.isComplete && this.position >= frames.end && !loop && !this.coming
    if (over) this.running = false
    const report: PlayerReport = {
      session,
      position: this.position,
      time: currentTime,
      kept: frames.kept,
      end: frames.end,
      running: this.running,
      over,
      starved: this.starved && !over,
    }
    this.port.postMessage(report)
  }
}

registerProcessor('player', Player)
