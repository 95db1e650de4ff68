import type { Tokens } from '../theme/tokens'
import type { BeatGrid } from '../time/grid'

/** How much goes on in each bar, as steps: the higher, the more. */
export function drawEnergy(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  energy: number[],
  firstBar: number,
  grid: BeatGrid,
  duration: number,
  tokens: Tokens,
) {
  const x = (bar: number) => (grid.timeAt(grid.bars.beatOf(bar)) / duration) * width
  context.fillStyle = tokens.lineStrong
  energy.forEach((value, i) => {
    const tall = Math.max(1, value * (height - 1))
    const left = x(firstBar + i)
    context.fillRect(left, height - tall, Math.max(1, x(firstBar + i + 1) - left), tall)
  })
}
