import { peaksOf } from '../composables/usePeaks'
import type { Entry, Plan } from '../api/types'
import { hueOf } from '../theme/hues'
import type { Tokens } from '../theme/tokens'
import type { Clock } from '../time/clock'
import type { BeatGrid } from '../time/grid'
import { meanLevel } from './level'

const STRIPE = 3
const PROFILE_HEIGHT = 16
/** Music at the target level fills most of the ribbon. */
const FULL = 2.1

/**
 * The whole mix as one ribbon over time: as wide as it is loud, a hue for each entry, hues interlaced where two
 * overlap; the tempo as a thin profile above.
 */
export function drawCourse(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  plan: Plan,
  clock: Clock,
  grids: Map<string, BeatGrid>,
  tokens: Tokens,
) {
  if (!plan.entries.length) return
  drawTempo(context, width, plan, clock, tokens)
  const middle = PROFILE_HEIGHT + (height - PROFILE_HEIGHT) / 2
  const half = (height - PROFILE_HEIGHT) / 2 - 1
  for (let x = 0; x < width; x++) {
    const from = (x / width) * plan.duration_s
    const to = ((x + 1) / width) * plan.duration_s
    const sounding = plan.entries.filter((e) => e.start_s < to && e.end_s > from)
    const entry = sounding[Math.floor(x / STRIPE) % sounding.length]
    if (!entry) continue
    const [low, full] = loudness(entry, clock, grids.get(entry.id)!, from, to)
    const hue = hueOf(entry.index)
    context.fillStyle = hue.middle
    context.fillRect(x, middle - full * half, 1, Math.max(1, 2 * full * half))
    context.fillStyle = hue.strong
    context.fillRect(x, middle - low * half * 0.7, 1, Math.max(1, 2 * low * half * 0.7))
  }
}

/** Low and full level (0..1) of an entry over a stretch of the mix. */
function loudness(entry: Entry, clock: Clock, grid: BeatGrid, from: number, to: number): [number, number] {
  const peaks = peaksOf(entry.track_id, 4096)
  if (!peaks) return [0.04, 0.08]
  const gain = 10 ** (entry.gain_db / 20)
  const sourceAt = (t: number) => grid.timeAt(clock.beatAt(t) - entry.offset)
  const first = Math.floor(sourceAt(from) / peaks.step)
  const { low, full } = meanLevel(
    peaks.bytes,
    first,
    Math.max(first + 1, Math.ceil(sourceAt(to) / peaks.step)),
  )
  return [Math.min(1, low * gain * FULL), Math.min(1, full * gain * FULL)]
}

function drawTempo(
  context: CanvasRenderingContext2D,
  width: number,
  plan: Plan,
  clock: Clock,
  tokens: Tokens,
) {
  const tempi = plan.tempo.map((p) => p.bpm)
  const low = Math.min(...tempi)
  const high = Math.max(...tempi, low + 1)
  context.beginPath()
  for (let x = 0; x <= width; x += 2) {
    const bpm = clock.bpmAt(clock.beatAt((x / width) * plan.duration_s))
    const y = PROFILE_HEIGHT - 3 - ((bpm - low) / (high - low)) * (PROFILE_HEIGHT - 5)
    if (x === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
  context.strokeStyle = tokens.inkSoft
  context.lineWidth = 1.25
  context.stroke()
}
