import type { Peaks } from '../pictures/trackPictures'
import type { Hue } from '../theme/hues'
import type { BeatGrid } from '../time/grid'

/** CSS pixels that a tile is wide. */
const TILE = 256
const MOST_TILES = 240
/** A band by itself rarely reaches full scale: drawn this much larger, the bands fill their height. */
const FULL = 1.6

export interface WaveSpec {
  trackId: string
  peaks: Peaks
  grid: BeatGrid
  /** Identifies the grid in the cache. */
  gridKey: string
  hue: Hue
  /** Linear gain at which the waveform is drawn. */
  gain: number
  /** Whether it stands on its line (up) or hangs from it. */
  hangs: boolean
}

const tiles = new Map<string, HTMLCanvasElement>()

/**
 * Draw a half waveform whose beat 0 lies at `zeroX`, from tiles that are rendered once for a zoom and then only moved.
 */
export function drawWave(
  context: CanvasRenderingContext2D,
  spec: WaveSpec,
  zeroX: number,
  perBeat: number,
  width: number,
  top: number,
  height: number,
  ratio: number,
) {
  const first = Math.floor(-zeroX / TILE)
  const last = Math.floor((width - zeroX) / TILE)
  for (let number = first; number <= last; number++) {
    const tile = tileFor(spec, number, perBeat, height, ratio)
    const x = Math.round((zeroX + number * TILE) * ratio) / ratio
    context.drawImage(tile, x, top, TILE, height)
  }
}

function tileFor(spec: WaveSpec, number: number, perBeat: number, height: number, ratio: number) {
  const key = [
    spec.trackId,
    spec.gridKey,
    spec.peaks.bucket,
    spec.gain.toFixed(3),
    spec.hue.name,
    spec.hangs,
    perBeat.toFixed(4),
    height,
    ratio,
    number,
  ].join('|')
  const known = tiles.get(key)
  if (known) {
    tiles.delete(key)
    tiles.set(key, known)
    return known
  }
  const tile = renderTile(spec, number, perBeat, height, ratio)
  tiles.set(key, tile)
  if (tiles.size > MOST_TILES) tiles.delete(tiles.keys().next().value!)
  return tile
}

function renderTile(spec: WaveSpec, number: number, perBeat: number, height: number, ratio: number) {
  const canvas = document.createElement('canvas')
  const columns = (canvas.width = Math.round(TILE * ratio))
  const rows = (canvas.height = Math.round(height * ratio))
  const context = canvas.getContext('2d')!
  const colours = [spec.hue.strong, spec.hue.middle, spec.hue.pale]
  const beatAt = (column: number) => (number * TILE + column / ratio) / perBeat
  let from = spec.grid.timeAt(beatAt(0)) / spec.peaks.step
  for (let x = 0; x < columns; x++) {
    const to = spec.grid.timeAt(beatAt(x + 1)) / spec.peaks.step
    const bands = highest(spec.peaks.bytes, Math.floor(from), Math.max(Math.floor(from) + 1, Math.ceil(to)))
    // The tallest band first, so that all three are seen.
    const order = [0, 1, 2].sort((a, b) => bands[b]! - bands[a]!)
    for (const band of order) {
      const tall = Math.round(Math.min(1, (bands[band]! / 255) * spec.gain * FULL) * rows)
      if (!tall) continue
      context.fillStyle = colours[band]!
      context.fillRect(x, spec.hangs ? 0 : rows - tall, 1, tall)
    }
    from = to
  }
  return canvas
}

/** The largest low, mid and high byte of some buckets. */
function highest(bytes: Uint8Array, from: number, to: number): [number, number, number] {
  const found: [number, number, number] = [0, 0, 0]
  const begin = Math.max(0, from)
  const end = Math.min(to, bytes.length / 3)
  for (let i = begin; i < end; i++) {
    for (let band = 0; band < 3; band++) {
      const value = bytes[i * 3 + band]!
      if (value > found[band]!) found[band] = value
    }
  }
  return found
}
