import type { MeterReport } from './messages'

const STEP_S = 0.1
const PHASES = 4
const TAPS = 24
const CHANNELS = 2

/** The coefficients of a filter of second order, from z^-0 and from z^-1. */
interface Section {
  b: readonly [number, number, number]
  a: readonly [number, number]
}

/** The two filters of BS.1770 at any rate, from their analogue forms by the bilinear transform, as `audio/measures/loudness.py`. */
function kWeighting(rate: number): Section[] {
  let k = Math.tan((Math.PI * 1681.974450955533) / rate)
  let q = 0.7071752369554196
  const gain = 10 ** (3.999843853973347 / 20)
  const middle = gain ** 0.4996667741545416
  let a0 = 1 + k / q + k * k
  const shelf: Section = {
    b: [
      (gain + (middle * k) / q + k * k) / a0,
      (2 * (k * k - gain)) / a0,
      (gain - (middle * k) / q + k * k) / a0,
    ],
    a: [(2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0],
  }
  k = Math.tan((Math.PI * 38.13547087602444) / rate)
  q = 0.5003270373238773
  a0 = 1 + k / q + k * k
  const highPass: Section = { b: [1, -2, 1], a: [(2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0] }
  return [shelf, highPass]
}

/** Windowed sincs for the places between two samples; each of TAPS values. */
function between(): number[][] {
  const filters = []
  for (let phase = 1; phase < PHASES; phase++) {
    const taps = []
    for (let i = 0; i < TAPS; i++) {
      const x = i - TAPS / 2 + 1 - phase / PHASES
      const window = Math.cos((Math.PI * x) / TAPS) ** 2
      taps.push((x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) * window)
    }
    const sum = taps.reduce((a, b) => a + b)
    filters.push(taps.map((t) => t / sum))
  }
  return filters
}

/** One channel on its way through: the states of its filters, and its last samples. */
class Channel {
  private readonly states: [number, number][]
  private readonly past = new Float64Array(TAPS)

  constructor(private readonly sections: Section[]) {
    this.states = sections.map(() => [0, 0])
  }

  /** The next sample, K-weighted. */
  weighted(sample: number): number {
    let x = sample
    this.sections.forEach(({ b, a }, s) => {
      const z = this.states[s]!
      const y = b[0] * x + z[0]
      z[0] = b[1] * x - a[0] * y + z[1]
      z[1] = b[2] * x - a[1] * y
      x = y
    })
    return x
  }

  /** The highest of the next sample and of what lies between those before it. */
  peak(sample: number, filters: number[][]): number {
    const { past } = this
    past.copyWithin(0, 1)
    past[TAPS - 1] = sample
    let peak = Math.abs(sample)
    for (const filter of filters) {
      let total = 0
      for (let i = 0; i < TAPS; i++) total += filter[i]! * past[i]!
      peak = Math.max(peak, Math.abs(total))
    }
    return peak
  }
}

/**
 * Meters what passes through: every 100 ms it tells the K-weighted mean square of both channels together (ITU-R
 * BS.1770-5) and the true peak, four-fold oversampled (its annex 2). What that means in LUFS is for the page.
 */
class Meter extends AudioWorkletProcessor {
  private readonly filters = between()
  private readonly channels = Array.from({ length: CHANNELS }, () => new Channel(kWeighting(sampleRate)))
  private readonly step = Math.round(STEP_S * sampleRate)
  private heard = 0
  private energy = 0
  private peak = 0

  process([input]: Float32Array[][]) {
    const first = input?.[0]
    for (let i = 0; input && first && i < first.length; i++) {
      this.channels.forEach((channel, c) => {
        const sample = (input[c] ?? first)[i]!
        this.energy += channel.weighted(sample) ** 2
        this.peak = Math.max(this.peak, channel.peak(sample, this.filters))
      })
      if (++this.heard >= this.step) this.tell()
    }
    return true
  }

  private tell() {
    const report: MeterReport = { energy: this.energy / this.heard, peak: this.peak }
    this.port.postMessage(report)
    this.heard = this.energy = this.peak = 0
  }
}

registerProcessor('meter', Meter)
