import type { Anchor, Grid } from '../api/types'
import { BeatGrid } from './grid'

/** The grid as it will be when a drag ends, to draw it meanwhile; `core/track/grid_edits.py` has the rules. */
export function slidDraft(grid: Grid, by: number): Grid {
  return { ...grid, anchors: grid.anchors.map((a) => ({ ...a, time_s: a.time_s + by })) }
}

/** A line put elsewhere: one tempo is stretched about its anchor, else the neighbouring anchors are held. */
export function lineDraft(grid: Grid, beat: number, to: number): Grid {
  const anchor = grid.anchors[0]!
  if (grid.anchors.length === 1) {
    if (anchor.beat === beat) return slidDraft(grid, to - anchor.time_s)
    const bpm = (60 * (beat - anchor.beat)) / (to - anchor.time_s)
    return bpm > 20 && bpm < 400 ? { ...grid, bpm_before: bpm, bpm_after: bpm } : grid
  }
  const anchors = withAnchor(grid, beat).map((a) => (a.beat === beat ? { ...a, time_s: to } : a))
  const rises = anchors.every((a, i) => !i || a.time_s > anchors[i - 1]!.time_s)
  return rises ? { ...grid, anchors } : grid
}

/** The anchors with one on a line, without which its moments are the same: a ramp is cut in two. */
function withAnchor(grid: Grid, beat: number): Anchor[] {
  if (grid.anchors.some((a) => a.beat === beat)) return grid.anchors
  const before = grid.anchors.filter((a) => a.beat < beat)
  const after = grid.anchors.filter((a) => a.beat > beat)
  const beats = new BeatGrid(grid)
  const here = { beat, time_s: beats.timeAt(beat), ramp: 1 }
  const last = before[before.length - 1]
  if (!last || !after.length || last.ramp === 1) return [...before, here, ...after]
  const rise = beats.bpmAt(beat) / beats.bpmAt(last.beat)
  return [...before.slice(0, -1), { ...last, ramp: rise }, { ...here, ramp: last.ramp / rise }, ...after]
}
