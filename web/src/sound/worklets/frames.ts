interface Chunk {
  from: number
  frames: Float32Array
}

/** Frames that lie in a row: `count` of them, the first at `at` of the samples. */
export interface Run {
  samples: Float32Array
  at: number
  count: number
}

/** The frames of a stream as they come in, addressed from its start; those before `kept` have been let go. */
export class Frames {
  private readonly chunks: Chunk[] = []
  kept = 0
  end = 0
  isComplete = false

  /** Add frames at the end, left and right in turns. */
  add(frames: Float32Array) {
    this.chunks.push({ from: this.end, frames })
    this.end += frames.length / 2
  }

  /** The frames in a row from one on, `most` at most; none where it has not come yet, or has been let go. */
  from(frame: number, most: number): Run | undefined {
    if (frame >= this.end || frame < this.kept) return undefined
    let low = 0
    let high = this.chunks.length - 1
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (this.chunks[middle]!.from <= frame) low = middle
      else high = middle - 1
    }
    const { from, frames } = this.chunks[low]!
    return {
      samples: frames,
      at: (frame - from) * 2,
      count: Math.min(most, from + frames.length / 2 - frame),
    }
  }

  /** Let go of pieces that end before a frame. */
  letGoBefore(frame: number) {
    while (this.chunks.length > 1 && this.chunks[1]!.from < frame) {
      this.chunks.shift()
      this.kept = this.chunks[0]!.from
    }
  }
}
