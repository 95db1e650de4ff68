import { ONSET_RATE } from '../pictures/trackPictures'
import type { BeatGrid } from '../time/grid'

export type Band = 'low' | 'full'

export interface WeavePicture {
  /** Two bytes a frame: low sounds, all sounds. */
  onsets: Uint8Array
  grid: BeatGrid
  band: Band
  /** Bar of the first row, and how many rows there are. */
  firstBar: number
  /** How many beats a row has room for. */
  beats: number
  bars: number
  /** The colour of the strongest onset, as red, green, blue. */
  ink: [number, number, number]
}

/** How much of the bar before is seen at the left edge, as a share of a beat, so that a thread on the one is whole. */
export const LEAD = 0.5
const COLUMNS = 480

/**
 * One row a bar, time within the bar across, strength as darkness. Drawn small, to be stretched over the box: a row is
 * one pixel high here.
 */
export function weaveImage(picture: WeavePicture): ImageData {
  const { onsets, grid, firstBar, bars, ink } = picture
  const image = new ImageData(COLUMNS, Math.max(1, bars))
  const offset = picture.band === 'low' ? 0 : 1
  const frames = onsets.length / 2
  for (let row = 0; row < bars; row++) {
    const start = grid.bars.beatOf(firstBar + row) - LEAD
    const end = grid.timeAt(grid.bars.beatOf(firstBar + row + 1) - LEAD) * ONSET_RATE
    let from = grid.timeAt(start) * ONSET_RATE
    for (let column = 0; column < COLUMNS; column++) {
      const to = Math.min(grid.timeAt(start + ((column + 1) / COLUMNS) * picture.beats) * ONSET_RATE, end)
      let most = 0
      if (to <= from) break // an odd bar is over sooner
      const last = Math.min(frames, Math.max(Math.floor(from) + 1, Math.ceil(to)))
      for (let i = Math.max(0, Math.floor(from)); i < last; i++)
        most = Math.max(most, onsets[i * 2 + offset]!)
      const at = (row * COLUMNS + column) * 4
      image.data[at] = ink[0]
      image.data[at + 1] = ink[1]
      image.data[at + 2] = ink[2]
      image.data[at + 3] = Math.round((most / 255) ** 1.3 * 255)
      from = to
    }
  }
  return image
}
