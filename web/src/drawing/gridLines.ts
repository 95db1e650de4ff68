import type { Tokens } from '../theme/tokens'
import { beatLinesOf } from '../time/beatLines'
import type { BeatGrid } from '../time/grid'

const CLOSEST = 6

/** Lines of a grid over a stretch of time: beats thin, bars stronger, phrases strongest; crowded ones are left out. */
export function drawGridLines(
  context: CanvasRenderingContext2D,
  grid: BeatGrid,
  tokens: Tokens,
  view: { from: number; perSecond: number; width: number; top: number; height: number },
) {
  const first = grid.beatAt(view.from)
  const last = grid.beatAt(view.from + view.width / view.perSecond)
  const perBeat = view.width / Math.max(1e-6, last - first)
  for (const { beat, kind } of beatLinesOf(grid.bars, first, last, perBeat, CLOSEST)) {
    const isPhrase = kind === 'phrase'
    context.fillStyle = tokens[kind]
    const x = Math.round((grid.timeAt(beat) - view.from) * view.perSecond)
    context.fillRect(isPhrase ? x - 0.5 : x, view.top, isPhrase ? 2 : 1, view.height)
  }
}
