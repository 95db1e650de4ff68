/**
 * Meters what passes through: every 100 ms it tells the K-weighted mean square of both channels together (ITU-R
 * BS.1770-5) and the true peak, four-fold oversampled (its annex 2). What that means in LUFS is for the page.
 */
const STEP_S = 0.1
const PHASES = 4
const TAPS = 24
const CHANNELS = 2

/** The two filters of BS.1770 at any rate, from their analogue forms by the bilinear transform, as `audio/loudness.py`. */
function kWeighting(rate) {
  let k = Math.tan((Math.PI * 1681.974450955533) / rate)
  let q = 0.7071752369554196
  const gain = 10 ** (3.999843853973347 / 20)
  const middle = gain ** 0.4996667741545416
  let a0 = 1 + k / q + k * k
  const shelf = {
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
  const highPass = { b: [1, -2, 1], a: [(2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0] }
  return [shelf, highPass]
}

/** Windowed sincs for the places between two samples; each of TAPS values. */
function between() {
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

class Meter extends AudioWorkletProcessor {
  constructor() {
    super()
    this.sections = kWeighting(sampleRate)
    this.filters = between()
    this.state = Array.from({ length: CHANNELS }, () => this.sections.map(() => [0, 0]))
    this.past = Array.from({ length: CHANNELS }, () => new Float64Array(TAPS))
    this.step = Math.round(STEP_S * sampleRate)
    this.begin()
  }

  begin() {
    this.heard = 0
    this.energy = 0
    this.peak = 0
  }

  process([input]) {
    if (!input.length) return true
    for (let i = 0; i < input[0].length; i++) {
      for (let c = 0; c < CHANNELS; c++) this.hear(c, (input[c] ?? input[0])[i])
      if (++this.heard >= this.step) {
        this.port.postMessage({ energy: this.energy / this.heard, peak: this.peak })
        this.begin()
      }
    }
    return true
  }

  hear(channel, sample) {
    let x = sample
    this.sections.forEach(({ b, a }, s) => {
      const z = this.state[channel][s]
      const y = b[0] * x + z[0]
      z[0] = b[1] * x - a[0] * y + z[1]
      z[1] = b[2] * x - a[1] * y
      x = y
    })
    this.energy += x * x
    const past = this.past[channel]
    past.copyWithin(0, 1)
    past[TAPS - 1] = sample
    this.peak = Math.max(this.peak, Math.abs(sample))
    for (const filter of this.filters) {
      let total = 0
      for (let i = 0; i < TAPS; i++) total += filter[i] * past[i]
      this.peak = Math.max(this.peak, Math.abs(total))
    }
  }
}

registerProcessor('meter', Meter)
