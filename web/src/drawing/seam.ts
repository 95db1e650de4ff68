import type { Curve, Law } from '../api/types'
import type { Tokens } from '../theme/tokens'
import { gainOf, valueAt } from '../time/curve'
import { drawWave, type WaveSpec } from './waveTiles'

const PHRASE_BARS = 8
const CLOSEST_LINES = 7

/** A span of beats as they are drawn. */
export interface Span {
  start: number
  end: number
}

/**
 * One side of the seam: its waveform, where its beat 0 lies and how many drawn beats each of its own takes, its volume
 * and the span over which that runs, and what it leaves out.
 */
export interface SeamSide {
  wave: WaveSpec | undefined
  offset: number
  scale: number
  span: Span
  volume: Curve
  law: Law
  leftOut: Span | undefined
  beatsPerBar: number
}

export interface SeamPicture {
  /** The mix's beat at the left edge, and CSS pixels for a beat. */
  from: number
  perBeat: number
  outgoing: SeamSide
  incoming: SeamSide
  tokens: Tokens
}

/**
 * The two waveforms that meet at one line: the outgoing stands on it, the incoming hangs from it, both in beats of the
 * mix. What is not heard lies under a veil, which follows the volume curves.
 */
export function drawSeam(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  ratio: number,
  picture: SeamPicture,
) {
  const line = Math.round(height / 2)
  const halves = [
    { side: picture.outgoing, top: 0, height: line, hangs: false },
    { side: picture.incoming, top: line, height: height - line, hangs: true },
  ]
  for (const half of halves) {
    const zeroX = (half.side.offset - picture.from) * picture.perBeat
    if (half.side.wave)
      drawWave(
        context,
        half.side.wave,
        zeroX,
        picture.perBeat * half.side.scale,
        width,
        half.top,
        half.height,
        ratio,
      )
    veil(context, width, picture, half.side, half.top, half.height, half.hangs)
    beatLines(context, width, picture, half.side, half.top, half.height)
  }
  context.fillStyle = picture.tokens.ink
  context.fillRect(0, line - 0.5, width, 1)
}

/** Cover what is not heard: beyond the overlap wholly, within it above the volume curve. */
function veil(
  context: CanvasRenderingContext2D,
  width: number,
  picture: SeamPicture,
  side: SeamSide,
  top: number,
  height: number,
  hangs: boolean,
) {
  const { from, perBeat } = picture
  const x = (beat: number) => (beat - from) * perBeat
  const start = x(side.span.start)
  const end = x(side.span.end)
  context.fillStyle = picture.tokens.veil
  if (side.leftOut)
    context.fillRect(x(side.leftOut.start), top, x(side.leftOut.end) - x(side.leftOut.start), height)
  if (hangs) context.fillRect(0, top, Math.max(0, Math.min(start, width)), height)
  else context.fillRect(Math.max(0, end), top, Math.max(0, width - end), height)
  if (end <= start) return
  const y = (gain: number) => (hangs ? top + height * gain : top + height * (1 - gain))
  const far = hangs ? top + height : top
  context.beginPath()
  context.moveTo(start, far)
  const steps = Math.min(200, Math.max(8, Math.round((end - start) / 4)))
  for (let i = 0; i <= steps; i++) {
    const place = i / steps
    context.lineTo(start + (end - start) * place, y(gainOf(valueAt(side.volume, place), side.law)))
  }
  context.lineTo(end, far)
  context.closePath()
  context.fill()
}

/** Thin lines for beats, stronger for bars, strongest for phrases; the fine ones go where they would crowd. */
function beatLines(
  context: CanvasRenderingContext2D,
  width: number,
  picture: SeamPicture,
  side: SeamSide,
  top: number,
  height: number,
) {
  const { from, tokens } = picture
  const perBeat = picture.perBeat * side.scale
  const bar = side.beatsPerBar
  const phrase = bar * PHRASE_BARS
  const unit = perBeat >= CLOSEST_LINES ? 1 : perBeat * bar >= CLOSEST_LINES ? bar : phrase
  const first = Math.ceil((from - side.offset) / side.scale / unit) * unit
  const last = (from - side.offset) / side.scale + width / perBeat
  for (let beat = first; beat <= last; beat += unit) {
    const isPhrase = beat % phrase === 0
    const isBar = beat % bar === 0
    context.fillStyle = isPhrase ? tokens.phrase : isBar ? tokens.bar : tokens.beat
    const x = Math.round((side.offset - from) * picture.perBeat + beat * perBeat)
    context.fillRect(isPhrase ? x - 0.5 : x, top, isPhrase ? 1.5 : 1, height)
  }
}
