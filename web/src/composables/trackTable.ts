import type { Track } from '../api/types'

export const COLUMNS = [
  { key: 'title', label: 'Title' },
  { key: 'artist', label: 'Artist' },
  { key: 'bpm', label: 'BPM' },
  { key: 'key', label: 'Key' },
  { key: 'duration_s', label: 'Length' },
  { key: 'loudness_lufs', label: 'Loudness' },
  { key: 'format', label: 'File' },
  { key: 'added_at', label: 'Added' },
] as const

export type Column = (typeof COLUMNS)[number]['key']

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })

/** The tracks in which every word of the search occurs, in title, artist, key or file name. */
export function matching(tracks: readonly Track[], search: string): Track[] {
  const words = fold(search).split(/\s+/).filter(Boolean)
  if (!words.length) return [...tracks]
  return tracks.filter((t) => {
    const text = fold(`${t.title} ${t.artist} ${t.file_name} ${t.key ?? ''} ${t.key_wheel ?? ''}`)
    return words.every((w) => text.includes(w))
  })
}

/** The tracks in the order of a column; those without a value come last either way. */
export function sorted(tracks: readonly Track[], column: Column, rising: boolean): Track[] {
  const sign = rising ? 1 : -1
  return [...tracks].sort((a, b) => {
    const x = a[column]
    const y = b[column]
    if (x === null || y === null) return Number(x === null) - Number(y === null)
    return (
      sign * (typeof x === 'number' && typeof y === 'number' ? x - y : collator.compare(String(x), String(y)))
    )
  })
}

/** Lower case without accents, so that a search need not have them. */
function fold(text: string): string {
  return text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()
}
