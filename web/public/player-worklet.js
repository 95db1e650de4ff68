/**
 * Plays frames that the page hands over. The page counts frames from the start of what it plays; frames before `kept`
 * have been let go. Everything is addressed by frame, so seeking and looping are exact.
 */
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
  }

  told(message) {
    if (message.type === 'begin') {
      this.reset(message.session)
      this.loop = message.loop
      this.keepAll = message.keepAll
      this.running = true
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

  process(_, outputs) {
    const [left, right] = outputs[0]
    if (this.running) {
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
    const over = complete && position >= end && !this.loop
    if (over) this.running = false
    this.port.postMessage({
      session,
      position,
      kept,
      end,
      running: running && !over,
      over,
      starved: this.starved && !over,
    })
  }
}

registerProcessor('player', Player)
