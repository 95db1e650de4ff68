import type { Offsets } from '../api/types'
import type { Tokens } from '../theme/tokens'
import { FINE_MS } from '../time/doubtfulPlaces'
import type { BeatGrid } from '../time/grid'

/** The offset in ms at which the strip is full. */
export const FULL_MS = 20

/**
 * The drift strip: for each beat a bar from the middle line, downwards where the onset is late, upwards where it is
 * early, outlined beyond what is fine; a gap where nothing is heard.
 */
export function drawDrift(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  offsets: Offsets,
  grid: BeatGrid,
  duration: number,
  tokens: Tokens,
) {
  const middle = height / 2
  context.fillStyle = tokens.bar
  context.fillRect(0, Math.round(middle), width, 1)
  const fine = (FINE_MS / FULL_MS) * (middle - 2)
  context.fillStyle = tokens.beat
  context.fillRect(0, middle - fine, width, 2 * fine)
  const columns = worstByColumn(offsets, grid, duration, width)
  for (let x = 0; x < columns.length; x++) {
    const late = columns[x]
    if (late === undefined) continue
    const tall = Math.max(1, (Math.min(FULL_MS, Math.abs(late)) / FULL_MS) * (middle - 2))
    context.fillStyle = Math.abs(late) > FINE_MS ? tokens.ink : tokens.inkFaint
    context.fillRect(x, late > 0 ? middle : middle - tall, 1, tall)
  }
}

/** For each pixel the largest offset of the beats in it, or undefined where none is heard. */
function worstByColumn(offsets: Offsets, grid: BeatGrid, duration: number, width: number) {
  const columns: (number | undefined)[] = new Array(Math.ceil(width))
  offsets.late_ms.forEach((late, i) => {
    if (!offsets.clear[i]) return
    const from = Math.floor((grid.timeAt(offsets.first + i - 0.5) / duration) * width)
    const to = Math.max(from + 1, Math.floor((grid.timeAt(offsets.first + i + 0.5) / duration) * width))
    for (let x = Math.max(0, from); x < Math.min(width, to); x++) {
      const known = columns[x]
      if (known === undefined || Math.abs(late) > Math.abs(known)) columns[x] = late
    }
  })
  return columns
}
