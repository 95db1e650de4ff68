import type { Tokens } from '../theme/tokens'
import type { BeatGrid } from '../time/grid'

export const PHRASE_BARS = 8
const CLOSEST = 6

/** Lines of a grid over a stretch of time: beats thin, bars stronger, phrases strongest; crowded ones are left out. */
export function drawGridLines(
  context: CanvasRenderingContext2D,
  grid: BeatGrid,
  tokens: Tokens,
  view: { from: number; perSecond: number; width: number; top: number; height: number },
) {
  const perBar = grid.beatsPerBar
  const first = grid.beatAt(view.from)
  const last = grid.beatAt(view.from + view.width / view.perSecond)
  const perBeat = view.width / Math.max(1e-6, last - first)
  const unit = perBeat >= CLOSEST ? 1 : perBeat * perBar >= CLOSEST ? perBar : perBar * PHRASE_BARS
  for (let beat = Math.ceil(first / unit) * unit; beat <= last; beat += unit) {
    const isPhrase = beat % (perBar * PHRASE_BARS) === 0
    const isBar = beat % perBar === 0
    context.fillStyle = isPhrase ? tokens.phrase : isBar ? tokens.bar : tokens.beat
    const x = Math.round((grid.timeAt(beat) - view.from) * view.perSecond)
    context.fillRect(isPhrase ? x - 0.5 : x, view.top, isPhrase ? 2 : 1, view.height)
  }
}
