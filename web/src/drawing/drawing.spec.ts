import { beforeEach, describe, expect, it, vi } from 'vitest'
import { BarLines } from '../time/barLines'
import type { Course, Plan } from '../api/types'
import type { Peaks } from '../pictures/trackPictures'
import { hueOf } from '../theme/hues'
import type { Tokens } from '../theme/tokens'
import { point } from '../time/curve'
import { Clock } from '../time/clock'
import { BeatGrid } from '../time/grid'
import { drawCourse } from './course'
import { meanLevel } from './level'
import { recordingContext } from './recording.test'
import { drawSeam, type SeamPicture, type SeamSide } from './seam'
import { drawSmallWave } from './smallWave'
import { drawWave } from './waveTiles'

const grid = {
  anchors: [{ time_s: 0, beat: 0, ramp: 1 }],
  bpm_before: 60,
  bpm_after: 60,
  beats_per_bar: 4,
  bars_from: [],
}
const tokens = {
  beat: 'beat',
  bar: 'bar',
  phrase: 'phrase',
  veil: 'veil',
  ink: 'ink',
  inkSoft: 'soft',
} as Tokens

/** One bucket a second: silent but for an attack at every fourth. */
const peaks: Peaks = {
  bucket: 1024,
  step: 1,
  bytes: Uint8Array.from({ length: 300 }, (_, i) => (Math.floor(i / 3) % 4 === 0 && i % 3 === 0 ? 255 : 0)),
}

let tileContexts: ReturnType<typeof recordingContext>[]
beforeEach(() => {
  tileContexts = []
  vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockImplementation(() => {
    const made = recordingContext()
    tileContexts.push(made)
    return made.context as never
  })
})

describe('levels', () => {
  it('are means over what there is', () => {
    expect(meanLevel(peaks.bytes, 0, 4)).toEqual({ low: 0.25, full: 0.25 })
    expect(meanLevel(peaks.bytes, 90, 500).low).toBeCloseTo(0.2)
    expect(meanLevel(peaks.bytes, 900, 950)).toEqual({ low: 0, full: 0 })
  })
})

describe('half a waveform', () => {
  const spec = {
    trackId: 'a',
    peaks,
    grid: new BeatGrid(grid),
    gridKey: 'g',
    hue: hueOf(0),
    gain: 1,
    hangs: false,
  }

  it('puts an attack on the column of its beat, standing on its line', () => {
    const { context } = recordingContext()
    drawWave(context, { ...spec, trackId: 'standing' }, 0, 8, 256, 0, 100, 1)
    const columns = tileContexts[0]!.rects.map((r) => r.x)
    expect(columns.slice(0, 8)).toEqual([0, 1, 2, 3, 4, 5, 6, 7])
    expect(columns[8]).toBe(32)
    expect(tileContexts[0]!.rects.every((r) => r.y + r.height === 100)).toBe(true)
  })

  it('hangs when it is the incoming', () => {
    const { context } = recordingContext()
    drawWave(context, { ...spec, trackId: 'hanging', hangs: true }, 0, 8, 256, 100, 100, 1)
    expect(tileContexts[0]!.rects.every((r) => r.y === 0)).toBe(true)
  })

  it('is only moved, not rendered, when it slides', () => {
    const { context, images } = recordingContext()
    const slid = { ...spec, trackId: 'slid' }
    drawWave(context, slid, 0, 8, 500, 0, 100, 1)
    const rendered = tileContexts.length
    drawWave(context, slid, -37, 8, 462, 0, 100, 1)
    expect(tileContexts).toHaveLength(rendered)
    expect(images[images.length - 1]!.x - images[rendered - 1]!.x).toBe(-37)
    drawWave(context, slid, 0, 9, 250, 0, 100, 1)
    expect(tileContexts.length).toBeGreaterThan(rendered)
  })
})

describe('the seam', () => {
  const side = (offset: number): SeamSide => ({
    wave: undefined,
    pieces: [{ start: -Infinity, end: Infinity, zero: offset }],
    silent: [],
    offset,
    scale: 1,
    span: { start: 32, end: 64 },
    volume: [point(0, 1), point(1, 0)],
    law: 'fader',
    leftOut: undefined,
    bars: BarLines.every(4),
  })
  const picture = (perBeat: number, from = 0): SeamPicture => ({
    from,
    perBeat,
    outgoing: side(0),
    incoming: side(2),
    tokens,
  })

  function lines(style: string, perBeat: number) {
    const { context, rects } = recordingContext()
    drawSeam(context, 800, 200, 1, picture(perBeat))
    return rects.filter((r) => r.style === style)
  }

  it('crosses beats, bars and phrases with ever stronger lines, each track by its own count', () => {
    const phrases = lines('phrase', 10)
    expect(phrases.filter((r) => r.y === 0).map((r) => r.x)).toEqual([-0.5, 319.5, 639.5])
    expect(phrases.filter((r) => r.y === 100).map((r) => r.x)).toEqual([19.5, 339.5, 659.5])
    expect(lines('bar', 10).filter((r) => r.y === 0)).toHaveLength(21 - 3)
    expect(lines('beat', 10).filter((r) => r.y === 0)).toHaveLength(81 - 21)
  })

  it('leaves out the lines that would crowd', () => {
    expect(lines('beat', 3)).toHaveLength(0)
    expect(lines('bar', 3).length).toBeGreaterThan(0)
    expect(lines('bar', 1)).toHaveLength(0)
    expect(lines('phrase', 1).length).toBeGreaterThan(0)
  })

  it('veils the outgoing after the overlap and the incoming before it', () => {
    const veils = lines('veil', 10)
    expect(veils).toContainEqual({ x: 640, y: 0, width: 160, height: 100, style: 'veil' })
    expect(veils).toContainEqual({ x: 0, y: 100, width: 320, height: 100, style: 'veil' })
  })

  it('draws a side that goes by another clock at its own pace, and veils what is left out', () => {
    const { context, rects } = recordingContext()
    const incoming = { ...side(2), scale: 0.5, leftOut: { start: 40, end: 44 } }
    drawSeam(context, 800, 200, 1, { ...picture(20), incoming })
    const bars = rects.filter((r) => r.style === 'bar' && r.y === 100).map((r) => r.x)
    expect(bars[2]! - bars[1]!).toBe(40)
    expect(rects).toContainEqual({ x: 800, y: 100, width: 80, height: 100, style: 'veil' })
  })

  it('lets the veil follow the volume', () => {
    const { context, path } = recordingContext()
    drawSeam(context, 800, 200, 1, picture(10))
    const outgoing = path.slice(0, path.length / 2)
    expect(outgoing[1]).toEqual([320, 0])
    expect(outgoing[outgoing.length - 2]![1]).toBeCloseTo(100)
    const middle = outgoing.find(([x]) => Math.abs(x - 480) < 2)!
    expect(middle[1]).toBeCloseTo(100 * (1 - Math.SQRT1_2), 0)
  })
})

describe('small pictures', () => {
  it('of a track show what has been played in full colour', () => {
    const { context, rects } = recordingContext()
    drawSmallWave(context, 100, 30, peaks, 100, hueOf(0), 0.5)
    const colour = (x: number) => rects.find((r) => r.x === x)!.style
    expect([colour(4), colour(96)]).toEqual([hueOf(0).middle, hueOf(0).pale])
  })

  it('of the mix interlace the hues where two entries overlap', () => {
    const plan = {
      entries: [{}, {}],
      duration_s: 100,
      clocks: [{ origin_beat: 0, tempo: [[0, 60]] }],
    } as unknown as Plan
    const levels = (columns: number) => Array.from({ length: columns }, () => 100)
    const entry = (first: number, columns: number) => ({ first, columns, low: levels(columns), full: levels(columns) }) // prettier-ignore
    const course: Course = {
      columns: 100,
      entries: [entry(0, 60), entry(40, 60)],
      limiting: [],
      warnings: [],
    }
    const { context, rects } = recordingContext()
    drawCourse(context, 100, 60, plan, course, new Clock(plan.clocks[0]!), tokens)
    const colours = (from: number, to: number) =>
      new Set(rects.filter((r) => r.x >= from && r.x < to && Object.values(hueOf(0)).concat(Object.values(hueOf(1))).includes(r.style)).map((r) => r.style)) // prettier-ignore
    expect(colours(0, 39)).toEqual(new Set([hueOf(0).strong, hueOf(0).middle]))
    expect(colours(61, 100)).toEqual(new Set([hueOf(1).strong, hueOf(1).middle]))
    expect(colours(41, 59).size).toBe(4)
  })
})
