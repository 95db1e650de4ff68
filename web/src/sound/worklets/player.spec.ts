import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { PlayerReport } from './messages'

interface Processor {
  port: { onmessage?: (event: { data: unknown }) => void; postMessage: (m: PlayerReport) => void }
  process: (inputs: unknown, outputs: Float32Array[][]) => boolean
}

const QUANTUM = 128

/** The worklet's class, as the browser would register it. */
async function load(): Promise<new () => Processor> {
  let found: (new () => Processor) | undefined
  class Base {
    port = { postMessage: () => undefined }
  }
  vi.stubGlobal('AudioWorkletProcessor', Base)
  vi.stubGlobal('registerProcessor', (_: string, type: new () => Processor) => (found = type))
  vi.stubGlobal('sampleRate', 1000)
  vi.stubGlobal('currentTime', 0)
  vi.resetModules()
  await import('./player')
  return found!
}

describe('the player in the audio thread', () => {
  let player: Processor
  let reports: PlayerReport[]

  beforeEach(async () => {
    player = new (await load())()
    reports = []
    player.port.postMessage = (m) => reports.push(m)
  })

  function tell(message: Record<string, unknown>) {
    player.port.onmessage!({ data: { session: 1, ...message } })
  }

  function begin(loop = false, keepAll = true) {
    tell({ type: 'begin', running: true, loop, keepAll })
  }

  /** Frames that count: left n, right -n. */
  function frames(from: number, count: number) {
    const data = new Float32Array(count * 2)
    for (let i = 0; i < count; i++) data.set([from + i, -(from + i)], i * 2)
    tell({ type: 'frames', frames: data })
  }

  /** What goes to the speakers over some quanta: the left side. */
  function heard(quanta = 1): number[] {
    const all: number[] = []
    for (let q = 0; q < quanta; q++) {
      const out = [new Float32Array(QUANTUM), new Float32Array(QUANTUM)]
      expect(player.process([], [out])).toBe(true)
      all.push(...out[0]!)
    }
    return all
  }

  const last = () => reports[reports.length - 1]!
  const count = (from: number, n: number) => Array.from({ length: n }, (_, i) => from + i)

  it('is silent until it is told to begin', () => {
    expect(heard().every((s) => s === 0)).toBe(true)
  })

  it('plays frames in order across pieces of any size, both sides', () => {
    begin()
    frames(0, 50)
    frames(50, 3)
    frames(53, 300)
    expect(heard(2)).toEqual(count(0, 256))
    const out = [new Float32Array(QUANTUM), new Float32Array(QUANTUM)]
    player.process([], [out])
    expect(out[1]![0]).toBe(-256)
  })

  it('waits for frames that have not arrived, until there is a small store, and leaves out none', () => {
    begin()
    frames(0, 100)
    expect(heard().slice(98)).toEqual([98, 99, ...Array(28).fill(0)])
    player.process([], [[new Float32Array(1024), new Float32Array(1024)]])
    expect(last().starved).toBe(true)
    frames(100, 249)
    expect(heard().every((s) => s === 0)).toBe(true)
    frames(349, 1)
    expect(heard()).toEqual(count(100, 128))
  })

  it('waits for twice as much when it runs dry again, but for no more than is to come', () => {
    begin()
    frames(0, 100)
    heard()
    frames(100, 250)
    expect(heard(2)).toContain(349)
    frames(350, 499)
    expect(heard().every((s) => s === 0)).toBe(true)
    tell({ type: 'complete' })
    expect(heard()[0]).toBe(350)
  })

  it('does not wait for a store at its beginning, nor after a seek', () => {
    begin()
    heard()
    frames(0, 40)
    expect(heard().slice(0, 40)).toEqual(count(0, 40))
    frames(40, 100)
    expect(heard().every((s) => s === 0)).toBe(true)
    tell({ type: 'seek', frame: 20 })
    expect(heard()[0]).toBe(20)
  })

  it('says when it is over, and not before all has arrived', () => {
    begin()
    frames(0, 64)
    heard()
    expect(last().over).toBe(false)
    tell({ type: 'complete' })
    expect(last()).toMatchObject({ over: true, running: false, position: 64 })
  })

  it('holds and goes on where it was', () => {
    begin()
    frames(0, 1000)
    heard()
    tell({ type: 'run', running: false })
    expect(heard().every((s) => s === 0)).toBe(true)
    tell({ type: 'run', running: true })
    expect(heard()[0]).toBe(128)
  })

  it('seeks to the very frame, within what has arrived', () => {
    begin()
    frames(0, 1000)
    tell({ type: 'seek', frame: 777 })
    expect(heard()[0]).toBe(777)
    tell({ type: 'seek', frame: 5000 })
    expect(last().position).toBe(1000)
  })

  it('loops from its end to its start without losing a frame', () => {
    begin(true)
    frames(0, 100)
    tell({ type: 'complete' })
    expect(heard(2).slice(95, 205)).toEqual([...count(95, 5), ...count(0, 100), ...count(0, 5)])
  })

  it('lets go of what has passed when a long piece is not to be kept', () => {
    begin(false, false)
    for (let i = 0; i < 30; i++) frames(i * 1000, 1000)
    heard(200)
    expect(last().kept).toBeGreaterThan(10_000)
    expect(last().position - last().kept).toBeGreaterThanOrEqual(10_000)
    expect(heard()[0]).toBe(200 * QUANTUM)
  })

  it('takes no frames that belong to what was played before', () => {
    begin()
    player.port.onmessage!({ data: { type: 'frames', session: 0, frames: new Float32Array(200).fill(9) } })
    expect(heard().every((s) => s === 0)).toBe(true)
  })

  describe('while another stream is made ready', () => {
    const toldOf = (session: number, message: Record<string, unknown>) =>
      player.port.onmessage!({ data: { session, ...message } })

    function ready(at: number, count: number, value: number) {
      toldOf(2, { type: 'ready', at, keepAll: true, loop: false })
      const data = new Float32Array(count * 2).fill(value)
      toldOf(2, { type: 'frames', frames: data })
    }

    it('goes over to it at its frame, without a jump', () => {
      begin()
      frames(0, 20_000)
      ready(256, 8000, 1e6)
      expect(heard(2)).toEqual(Array.from({ length: 256 }, (_, i) => i))
      const after = heard(6)
      expect(Math.max(...after.slice(1).map((v, i) => Math.abs(v - after[i]!)))).toBeLessThan(1e6 / 400)
      expect(after[700]).toBe(1e6)
      // What leaves fades away evenly, and what comes rises: not the other way round.
      expect(after[0]).toBeLessThan(1e6 / 100)
      expect(after.slice(0, 512).every((v, i) => !i || v >= after[i - 1]!)).toBe(true)
      expect(after[256]! / 1e6).toBeCloseTo(0.5, 1)
      expect(reports[reports.length - 1]).toMatchObject({ session: 2, position: 4 * QUANTUM })
    })

    it('waits until enough of it is there, and is as far in it as it is late', () => {
      begin()
      frames(0, 20_000)
      toldOf(2, { type: 'ready', at: 128, keepAll: true, loop: false })
      expect(heard(4)[511]).toBe(511)
      toldOf(2, { type: 'frames', frames: new Float32Array(2 * 9000).fill(7) })
      heard(1)
      expect(reports[reports.length - 1]).toMatchObject({ session: 2, position: 4 * QUANTUM - 128 })
    })

    it('follows on the last frame, and not when it is not wanted any more', () => {
      begin()
      frames(0, 256)
      tell({ type: 'complete' })
      ready(256, 8000, 5)
      heard(2)
      expect(reports.some((r) => r.over)).toBe(false)
      expect(heard(8)[1000]).toBe(5)
      toldOf(3, { type: 'ready', at: 300, keepAll: true, loop: false })
      toldOf(2, { type: 'alone' })
      toldOf(3, { type: 'frames', frames: new Float32Array(2 * 9000) })
      heard(4)
      expect(reports[reports.length - 1]!.session).toBe(2)
    })
  })
})
