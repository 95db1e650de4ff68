import type { Course, Plan } from '../api/types'
import { hueOf } from '../theme/hues'
import type { Tokens } from '../theme/tokens'
import type { Clock } from '../time/clock'

const STRIPE = 3
export const PROFILE_HEIGHT = 22
/** Room above and below the line of the tempo. */
const INSET = 4
/** A mix at one tempo has room for so many BPM above it all the same. */
const LEAST_BPM = 4
/** Music at the target level fills most of the ribbon. */
const FULL = 2.1
/** Reductions that are worth a tooth, that make the tallest one, and its height. */
const LEAST_DB = 0.3
const MOST_DB = 6
const TOOTH = 9
/** Drawn where there is no waveform yet. */
const UNKNOWN = { low: 0.04, full: 0.08 }

/**
 * The whole mix as one ribbon over time: as wide as it is loud, a hue for each entry, hues interlaced where two
 * overlap.
 */
export function drawRibbon(
  context: CanvasRenderingContext2D,
  width: number,
  top: number,
  height: number,
  course: Course,
) {
  const middle = top + height / 2
  const half = height / 2 - 1
  const sounding = entriesByColumn(course)
  for (let x = 0; x < width; x++) {
    const column = Math.min(course.columns - 1, Math.floor((x / width) * course.columns))
    const here = sounding[column]
    if (!here?.length) continue
    const index = here[Math.floor(x / STRIPE) % here.length]!
    const { low, full } = levels(course, index, column)
    const hue = hueOf(index)
    context.fillStyle = hue.middle
    context.fillRect(x, middle - full * half, 1, Math.max(1, 2 * full * half))
    context.fillStyle = hue.strong
    context.fillRect(x, middle - low * half * 0.7, 1, Math.max(1, 2 * low * half * 0.7))
  }
}

/** The ribbon under the tempo of the mix as a thin profile. */
export function drawCourse(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  plan: Plan,
  course: Course,
  clock: Clock,
  tokens: Tokens,
) {
  if (!plan.entries.length) return
  drawTempo(context, width, plan, clock, tokens)
  drawRibbon(context, width, PROFILE_HEIGHT, height - PROFILE_HEIGHT, course)
  drawLimiting(context, width, height, course.limiting, tokens)
}

/** How busy the limiter will be, as teeth that rise from the lower edge. */
function drawLimiting(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  limiting: number[],
  tokens: Tokens,
) {
  context.fillStyle = tokens.warn
  for (let x = 0; x < width; x++) {
    const from = Math.floor((x / width) * limiting.length)
    const to = Math.max(from + 1, Math.floor(((x + 1) / width) * limiting.length))
    const db = Math.max(0, ...limiting.slice(from, to))
    if (db < LEAST_DB) continue
    const tall = 1 + Math.min(1, db / MOST_DB) * TOOTH
    context.fillRect(x, height - tall, 1, tall)
  }
}

/** Which entries sound in each column. */
function entriesByColumn(course: Course): number[][] {
  const found: number[][] = Array.from({ length: course.columns }, () => [])
  course.entries.forEach(({ first, columns }, index) => {
    for (let c = first; c < first + columns; c++) found[c]?.push(index)
  })
  return found
}

function levels(course: Course, index: number, column: number) {
  const entry = course.entries[index]!
  const low = entry.low[column - entry.first]
  const full = entry.full[column - entry.first]
  if (low === undefined || full === undefined) return UNKNOWN
  return { low: Math.min(1, (low / 255) * FULL), full: Math.min(1, (full / 255) * FULL) }
}

/** How high a tempo lies in the profile, and which tempo lies at a height. */
export function tempoScale(plan: Plan) {
  const tempi = plan.clocks[0]!.tempo.map(([, bpm]) => bpm)
  const low = Math.min(...tempi)
  const high = Math.max(...tempi, low + LEAST_BPM)
  const room = PROFILE_HEIGHT - 2 * INSET
  return {
    yOf: (bpm: number) => PROFILE_HEIGHT - INSET - ((bpm - low) / (high - low)) * room,
    bpmOf: (y: number) => low + ((PROFILE_HEIGHT - INSET - y) / room) * (high - low),
  }
}

function drawTempo(
  context: CanvasRenderingContext2D,
  width: number,
  plan: Plan,
  clock: Clock,
  tokens: Tokens,
) {
  const { yOf } = tempoScale(plan)
  context.beginPath()
  for (let x = 0; x <= width; x += 2) {
    const bpm = clock.bpmAt(clock.beatAt((x / width) * plan.duration_s))
    const y = yOf(bpm)
    if (x === 0) context.moveTo(x, y)
    else context.lineTo(x, y)
  }
  context.strokeStyle = tokens.inkSoft
  context.lineWidth = 1.25
  context.stroke()
}
