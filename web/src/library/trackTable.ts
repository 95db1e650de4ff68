import type { Job, TrackTable } from '../api/types'

type Columns = Omit<TrackTable, 'analyses'>
type Cells = { [Name in keyof Columns]: Columns[Name][number] }

/** A track as lists show it. `text` is all that a search looks at, folded once when the list comes. */
export interface ListedTrack extends Cells {
  analysis: Job | null
  text: string
}

/** The rows of a table that came as columns. */
export function rowsOf({ analyses, ...columns }: TrackTable): ListedTrack[] {
  const names = Object.keys(columns) as (keyof Columns)[]
  return columns.id.map((id, i) => {
    const row: Record<string, unknown> = {}
    for (const name of names) row[name] = columns[name][i]
    const cells = row as unknown as Cells
    const { title, artist, file_name, key, key_wheel } = cells
    return {
      ...cells,
      analysis: analyses[id] ?? null,
      text: fold(`${title} ${artist} ${file_name} ${key ?? ''} ${key_wheel ?? ''}`),
    }
  })
}

/** The tracks in which every word of the search occurs, in title, artist, key or file name. */
export function matching(tracks: readonly ListedTrack[], search: string): readonly ListedTrack[] {
  const words = fold(search).split(/\s+/).filter(Boolean)
  if (!words.length) return tracks
  return tracks.filter((t) => words.every((w) => t.text.includes(w)))
}

/** Lower case without accents, so that a search need not have them. */
function fold(text: string): string {
  return text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()
}
