import type { Peaks } from '../pictures/trackPictures'
import type { Hue } from '../theme/hues'
import { meanLevel } from './level'

/** Levels are drawn to this power, so that the form of a quiet track can be seen beside a loud one. */
const FLATTER = 0.6

/** A whole track as a small waveform about its middle line: what lies before `played` (0..1) in full colour. */
export function drawSmallWave(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  peaks: Peaks,
  duration: number,
  hue: Hue,
  played: number,
) {
  const middle = height / 2
  const buckets = peaks.bytes.length / 3
  for (let x = 0; x < width; x++) {
    const from = Math.floor(((x / width) * duration) / peaks.step)
    const to = Math.max(from + 1, Math.floor((((x + 1) / width) * duration) / peaks.step))
    if (from >= buckets) break
    const { low, full } = meanLevel(peaks.bytes, from, to)
    const isPlayed = x / width < played
    const tall = Math.round(full ** FLATTER * (middle - 1))
    const short = Math.round(low ** FLATTER * (middle - 1) * 0.8)
    context.fillStyle = isPlayed ? hue.middle : hue.pale
    context.fillRect(x, middle - tall, 1, 2 * tall + 1)
    context.fillStyle = isPlayed ? hue.strong : hue.middle
    context.fillRect(x, middle - short, 1, 2 * short + 1)
  }
}
