import type { Curve, Law } from '../api/types'
import type { Tokens } from '../theme/tokens'
import type { BarLines } from '../time/barLines'
import { beatLinesOf } from '../time/beatLines'
import { valueAt } from '../time/curve'
import { gainOf } from '../time/laws'
import { drawWave, type WaveSpec } from './waveTiles'

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
  /** What of the track is heard, in drawn beats; beat 0 of its grid would lie at `zero`. */
  pieces: (Span & { zero: number })[]
  /** Where it is silent by an edit. */
  silent: Span[]
  offset: number
  scale: number
  span: Span
  volume: Curve
  law: Law
  leftOut: Span | undefined
  bars: BarLines
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
    drawPieces(context, width, ratio, picture, half.side, half.top, half.height)
    veil(context, width, picture, half.side, half.top, half.height, half.hangs)
    beatLines(context, width, picture, half.side, half.top, half.height)
  }
  context.fillStyle = picture.tokens.ink
  context.fillRect(0, line - 0.5, width, 1)
}

/** The waveform of each piece where it is heard, and a mark on each join. */
function drawPieces(
  context: CanvasRenderingContext2D,
  width: number,
  ratio: number,
  picture: SeamPicture,
  side: SeamSide,
  top: number,
  height: number,
) {
  const x = (beat: number) => (beat - picture.from) * picture.perBeat
  for (const piece of side.pieces) {
    const start = Math.max(0, x(piece.start))
    const end = Math.min(width, x(piece.end))
    if (end <= start || !side.wave) continue
    context.save()
    context.beginPath()
    context.rect(start, top, end - start, height)
    context.clip()
    drawWave(context, side.wave, x(piece.zero), picture.perBeat * side.scale, width, top, height, ratio)
    context.restore()
    if (Number.isFinite(piece.start)) drawJoin(context, start, top, height, picture.tokens)
  }
}

/** A join: a stitched line, as where cloth is sewn together. */
function drawJoin(context: CanvasRenderingContext2D, x: number, top: number, height: number, tokens: Tokens) {
  context.save()
  context.strokeStyle = tokens.ink
  context.setLineDash([3, 3])
  context.beginPath()
  context.moveTo(Math.round(x) + 0.5, top)
  context.lineTo(Math.round(x) + 0.5, top + height)
  context.stroke()
  context.restore()
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
  for (const span of [...(side.leftOut ? [side.leftOut] : []), ...side.silent])
    context.fillRect(x(span.start), top, x(span.end) - x(span.start), height)
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
  const first = (from - side.offset) / side.scale
  const last = first + width / perBeat
  for (const { beat, kind } of beatLinesOf(side.bars, first, last, perBeat, CLOSEST_LINES)) {
    const isPhrase = kind === 'phrase'
    context.fillStyle = tokens[kind]
    const x = Math.round((side.offset - from) * picture.perBeat + beat * perBeat)
    context.fillRect(isPhrase ? x - 0.5 : x, top, isPhrase ? 1.5 : 1, height)
  }
}
