import type { Grid } from '../api/types'

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
  const anchors = [...grid.anchors.filter((a) => a.beat !== beat), { beat, time_s: to }].sort(
    (a, b) => a.beat - b.beat,
  )
  const rises = anchors.every((a, i) => !i || a.time_s > anchors[i - 1]!.time_s)
  return rises ? { ...grid, anchors } : grid
}
