import { describe, expect, it, vi } from 'vitest'
import type { MeterReport } from './messages'

const RATE = 44_100

/** What the meter tells of a tone on both channels. */
async function meter(hz: number, amplitude: number, seconds = 1, phase = 0): Promise<MeterReport[]> {
  const told: MeterReport[] = []
  type Processor = { process: (inputs: Float32Array[][]) => boolean }
  let type: (new () => Processor) | undefined
  class Base {
    port = { postMessage: (m: MeterReport) => told.push(m) }
  }
  vi.stubGlobal('AudioWorkletProcessor', Base)
  vi.stubGlobal('registerProcessor', (_: string, found: new () => Processor) => (type = found))
  vi.stubGlobal('sampleRate', RATE)
  vi.resetModules()
  await import('./meter')
  const processor = new type!()
  for (let at = 0; at < seconds * RATE; at += 128) {
    const block = Float32Array.from(
      { length: 128 },
      (_, i) => amplitude * Math.sin((2 * Math.PI * hz * (at + i)) / RATE + phase),
    )
    processor.process([[block, block]])
  }
  return told
}

const lufs = (energy: number) => -0.691 + 10 * Math.log10(energy)

describe('the meter', () => {
  it('tells a tone at 1 kHz of -23 dBFS in both channels as -23 LUFS, as EBU Tech 3341 has it', async () => {
    const heard = await meter(1000, 10 ** (-23 / 20), 1)
    expect(heard.length).toBe(10)
    expect(lufs(heard[5]!.energy)).toBeCloseTo(-23, 1)
    expect(20 * Math.log10(heard[5]!.peak)).toBeCloseTo(-23, 1)
  })

  it('hears the deep less and the high more', async () => {
    const level = async (hz: number) => lufs((await meter(hz, 0.1, 0.6))[4]!.energy)
    expect(await level(40)).toBeLessThan((await level(1000)) - 3)
    expect(await level(6000)).toBeGreaterThan((await level(1000)) + 2.5)
  })

  it('finds the peaks between the samples', async () => {
    // At a quarter of the rate and turned by 45 degrees no sample is above 0.707.
    const heard = await meter(RATE / 4, 1, 0.5, Math.PI / 4)
    expect(heard[3]!.peak).toBeGreaterThan(0.99)
    expect(heard[3]!.peak).toBeLessThan(1.03)
  })
})
