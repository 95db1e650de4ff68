import { describe, expect, it } from 'vitest'
import type { Grid, Offsets } from '../api/types'
import { doubtfulPlaces, typicalOffset } from '../time/doubtfulPlaces'
import { loopPiece } from '../sound/pieces'
import type { Tokens } from '../theme/tokens'
import { BeatGrid } from '../time/grid'
import { lineDraft, slidDraft } from '../time/gridDraft'
import { drawDrift } from './drift'
import { drawGridLines } from './gridLines'
import { recordingContext } from './recording.test'

const GRID: Grid = {
  anchors: [{ beat: 0, time_s: 1, ramp: 1 }],
  bpm_before: 120,
  bpm_after: 120,
  beats_per_bar: 4,
  bars_from: [],
}
const TOKENS = { ink: 'ink', inkFaint: 'faint', bar: 'bar', beat: 'beat', phrase: 'phrase' } as Tokens

function offsets(late: number[], clear = late.map(() => 1)): Offsets {
  return { first: 0, late_ms: late, clear }
}

describe('a grid under a drag', () => {
  it('slides as a whole', () => {
    const slid = new BeatGrid(slidDraft(GRID, 0.25))
    expect([slid.timeAt(0), slid.timeAt(8)]).toEqual([1.25, 5.25])
  })

  it('is stretched about its only anchor, and slid by the line of that', () => {
    const stretched = lineDraft(GRID, 8, 5.5)
    expect(new BeatGrid(stretched).timeAt(0)).toBe(1)
    expect(new BeatGrid(stretched).timeAt(16)).toBeCloseTo(10)
    expect(lineDraft(GRID, 0, 1.5)).toEqual(slidDraft(GRID, 0.5))
  })

  it('holds other anchors, and is left alone where lines would cross', () => {
    const two: Grid = { ...GRID, anchors: [...GRID.anchors, { beat: 8, time_s: 5, ramp: 1 }] }
    const moved = new BeatGrid(lineDraft(two, 4, 3.2))
    expect([moved.timeAt(0), moved.timeAt(4), moved.timeAt(8)]).toEqual([1, 3.2, 5])
    expect(lineDraft(two, 4, 5.5)).toBe(two)
    expect(lineDraft(GRID, 8, 0.5)).toBe(GRID)
  })
})

describe('what a grid is made of', () => {
  const anchors = (...all: [beat: number, time_s: number, ramp?: number][]): Grid => ({
    ...GRID,
    anchors: all.map(([beat, time_s, ramp = 1]) => ({ beat, time_s, ramp })),
  })

  it('breaks where the tempo steps, and where a ramp begins and ends', () => {
    const step = { ...anchors([0, 0], [8, 4]), bpm_after: 150 }
    expect(new BeatGrid(step).breaks(0.03)).toEqual([[8, 150]])
    const takes = (60 * 8 * Math.log(1.25)) / 30
    const ramp = { ...anchors([0, 0, 1.25], [8, takes]), bpm_after: 150 }
    const found = new BeatGrid(ramp).breaks(0.03)
    expect(found.map(([beat]) => beat)).toEqual([0, 8])
    expect(found.map(([, bpm]) => bpm)).toEqual([expect.closeTo(120), expect.closeTo(150)])
  })

  it('has no breaks where a player wanders, and counts them as the entry does', () => {
    const wanders = anchors([0, 0], [4, 1.98], [8, 3.99], [12, 6.01])
    expect(new BeatGrid(wanders).breaks(0.03)).toEqual([])
    const step = { ...anchors([0, 0], [8, 4]), bpm_after: 150 }
    expect(new BeatGrid(step, 2).breaks(0.03)).toEqual([[16, 300]])
  })
})

describe('the drift strip', () => {
  it('draws late onsets below the middle and early ones above, what can be heard in ink', () => {
    const { context, rects } = recordingContext()
    drawDrift(context, 40, 42, offsets([10, -10, 1, 1]), new BeatGrid(GRID), 4, TOKENS)
    const ink = rects.filter((r) => r.style === 'ink')
    expect(ink.some((r) => r.y === 21)).toBe(true)
    expect(ink.some((r) => r.y < 21)).toBe(true)
    expect(rects.some((r) => r.style === 'faint')).toBe(true)
  })

  it('leaves out what is not heard', () => {
    const { context, rects } = recordingContext()
    drawDrift(context, 40, 42, offsets([10, -10], [0, 0]), new BeatGrid(GRID), 4, TOKENS)
    expect(rects.filter((r) => r.style === 'ink')).toEqual([])
  })
})

describe('doubtful places', () => {
  it('come worst first, apart from each other, without what is fine or not heard', () => {
    const late = new Array<number>(100).fill(1)
    late[10] = 8
    late[12] = 7
    late[60] = -15
    late[90] = 40
    const clear = late.map((_, i) => (i === 90 ? 0 : 1))
    expect(doubtfulPlaces(offsets(late, clear)).map((p) => p.beat)).toEqual([60, 10])
    expect(typicalOffset(offsets(late, clear))).toBe(1)
    expect(typicalOffset(offsets([5], [0]))).toBeUndefined()
  })
})

describe('grid lines', () => {
  it('are fewer where they would crowd', () => {
    const near = recordingContext()
    const far = recordingContext()
    const view = { from: 0, width: 400, top: 0, height: 10 }
    drawGridLines(near.context, new BeatGrid(GRID), TOKENS, { ...view, perSecond: 100 })
    drawGridLines(far.context, new BeatGrid(GRID), TOKENS, { ...view, perSecond: 5 })
    expect(near.rects.filter((r) => r.style === 'beat').length).toBe(7)
    expect(far.rects.filter((r) => r.style === 'beat')).toEqual([])
    expect(far.rects.filter((r) => r.style === 'phrase').length).toBeGreaterThan(2)
  })
})

describe('a loop', () => {
  it('holds whole bars around a moment, and asks for the click', () => {
    const track = { id: 't', title: 'T', artist: '', duration_s: 60 } as Parameters<typeof loopPiece>[0]
    const piece = loopPiece(track, new BeatGrid(GRID), 4.1, 2, -6)
    expect([piece.start, piece.end]).toEqual([3 * 44_100, 7 * 44_100])
    expect(piece.url(piece.start)).toBe(
      '/api/tracks/t/audio?start=132300&end=308700&back_to=132300&click_db=-6',
    )
    expect(piece.loops).toBe(true)
  })
})
