/**
 * Plays frames that the page hands over. The page counts frames from the start of what it plays; frames before `kept`
 * have been let go. Everything is addressed by frame, so seeking and looping are exact.
 *
 * A stream may be made ready to take over from the one that plays, at one of its frames: what is changed while it is
 * listened to is then heard from there on, without a stop.
 */
const FADE = 512
const READY = 4096

class Player extends AudioWorkletProcessor {
  constructor() {
    super()
    this.reset(0)
    this.port.onmessage = ({ data }) => this.told(data)
    this.sinceReport = 0
  }

  reset(session) {
    this.session = session
    this.chunks = []
    this.kept = 0
    this.end = 0
    this.position = 0
    this.running = false
    this.complete = false
    this.loop = null
    this.keepAll = true
    this.starved = false
    this.last = null
    this.coming = null
    this.going = null
  }

  told(message) {
    if (message.type === 'begin') {
      this.reset(message.session)
      this.loop = message.loop
      this.keepAll = message.keepAll
      this.running = message.running
    } else if (message.type === 'ready') {
      this.coming = {
        session: message.session,
        at: message.at,
        keepAll: message.keepAll,
        loop: message.loop,
        chunks: [],
        end: 0,
        complete: false,
      }
    } else if (message.type === 'alone') {
      this.coming = null
    } else if (this.coming && message.session === this.coming.session) {
      return this.toldOfComing(message)
    } else if (message.session !== this.session) {
      return
    } else if (message.type === 'frames') {
      this.chunks.push({ from: this.end, frames: message.frames })
      this.end += message.frames.length / 2
    } else if (message.type === 'complete') this.complete = true
    else if (message.type === 'run') this.running = message.running
    else if (message.type === 'seek') this.position = Math.min(Math.max(message.frame, this.kept), this.end)
    else if (message.type === 'loop') this.loop = message.loop
    this.report()
  }

  toldOfComing(message) {
    const coming = this.coming
    if (message.type === 'frames') {
      coming.chunks.push({ from: coming.end, frames: message.frames })
      coming.end += message.frames.length / 2
    } else if (message.type === 'complete') coming.complete = true
  }

  /** Go over to the stream that was made ready, once its frame has come and enough of it is there. */
  takeOver() {
    const coming = this.coming
    if (!coming || this.position < coming.at) return
    const late = this.position - coming.at
    if (coming.end < late + READY && !coming.complete) return
    this.going = { chunks: this.chunks, position: this.position, left: FADE }
    const { session, chunks, end, complete, keepAll, loop } = coming
    Object.assign(this, {
      session,
      chunks,
      end,
      complete,
      keepAll,
      loop,
      kept: 0,
      position: late,
      last: null,
      coming: null,
    })
    this.report()
  }

  /** What the stream that has been left sounds at its next frame, and how much of it is heard. */
  leaving() {
    const going = this.going
    const chunk = going.chunks.find(
      (c) => going.position >= c.from && going.position < c.from + c.frames.length / 2,
    )
    const share = going.left-- / FADE
    if (!chunk || share <= 0) {
      this.going = null
      return null
    }
    const at = (going.position++ - chunk.from) * 2
    return { left: chunk.frames[at], right: chunk.frames[at + 1], share }
  }

  process(_, outputs) {
    const [left, right] = outputs[0]
    if (this.running) {
      this.takeOver()
      for (let i = 0; i < left.length; i++) {
        if (this.loop && this.position >= this.end && this.complete) this.position = this.kept
        const chunk = this.chunkAt(this.position)
        if (!chunk) {
          this.starved = true
          break
        }
        this.starved = false
        const at = (this.position - chunk.from) * 2
        left[i] = chunk.frames[at]
        right[i] = chunk.frames[at + 1]
        const old = this.going && this.leaving()
        if (old) {
          left[i] += (old.left - left[i]) * old.share
          right[i] += (old.right - right[i]) * old.share
        }
        this.position++
      }
      if (!this.keepAll) this.letGo()
    }
    this.sinceReport += left.length
    if (this.sinceReport >= 512) this.report()
    return true
  }

  chunkAt(frame) {
    if (frame >= this.end || frame < this.kept) return null
    const last = this.last
    if (last && frame >= last.from && frame < last.from + last.frames.length / 2) return last
    let low = 0
    let high = this.chunks.length - 1
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (this.chunks[middle].from <= frame) low = middle
      else high = middle - 1
    }
    this.last = this.chunks[low]
    return this.last
  }

  letGo() {
    while (this.chunks.length > 1 && this.chunks[1].from < this.position - 10 * sampleRate) {
      this.chunks.shift()
      this.kept = this.chunks[0].from
    }
  }

  report() {
    this.sinceReport = 0
    const { session, position, kept, end, running, complete } = this
    const over = complete && position >= end && !this.loop && !this.coming
    if (over) this.running = false
    this.port.postMessage({
      session,
      position,
      time: currentTime,
      kept,
      end,
      running: running && !over,
      over,
      starved: this.starved && !over,
    })
  }
}

registerProcessor('player', Player)
