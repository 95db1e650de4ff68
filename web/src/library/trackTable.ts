import type { CueMark, Job, TrackTable } from '../api/types'

/** A track as lists show it. `text` is all that a search looks at, folded once when the list comes. */
export interface ListedTrack {
  id: string
  version: number
  title: string
  artist: string
  album: string
  genre: string
  comment: string
  year: number | null
  file_name: string
  bpm: number | null
  steady: boolean
  key: string | null
  key_wheel: string | null
  energy: number | null
  voice_share: number | null
  format: string
  bit_rate: number | null
  rate: number
  channels: number
  duration_s: number
  loudness_lufs: number | null
  true_peak_dbtp: number | null
  added_at: string
  tags: string[]
  /** Moments of its cues, and what stands on them. */
  cue_marks: CueMark[]
  /** What may be wrong with its file. */
  file_doubts: string[]
  /** Whether its name looks as one does that is read in another encoding. */
  misread: boolean
  lists: string[]
  used_in: string[]
  checked: boolean
  doubts: string[]
  outdated: boolean
  has_peaks: boolean
  analysis: Job | null
  text: string
}

/** The rows of a table that came as columns. */
export function rowsOf(table: TrackTable): ListedTrack[] {
  return table.id.map((id, i) => {
    const [title, artist, file_name] = [table.title[i]!, table.artist[i]!, table.file_name[i]!]
    const [key, key_wheel] = [table.key[i]!, table.key_wheel[i]!]
    return {
      id,
      version: table.version[i]!,
      title,
      artist,
      album: table.album[i]!,
      genre: table.genre[i]!,
      comment: table.comment[i]!,
      year: table.year[i]!,
      file_name,
      bpm: table.bpm[i]!,
      steady: table.steady[i]!,
      key,
      key_wheel,
      energy: table.energy[i]!,
      voice_share: table.voice_share[i]!,
      format: table.format[i]!,
      bit_rate: table.bit_rate[i]!,
      rate: table.rate[i]!,
      channels: table.channels[i]!,
      duration_s: table.duration_s[i]!,
      loudness_lufs: table.loudness_lufs[i]!,
      true_peak_dbtp: table.true_peak_dbtp[i]!,
      added_at: table.added_at[i]!,
      tags: table.tags[i]!,
      cue_marks: table.cue_marks[i]!,
      file_doubts: table.file_doubts[i]!,
      misread: table.misread[i]!,
      lists: table.lists[i]!,
      used_in: table.used_in[i]!,
      checked: table.checked[i]!,
      doubts: table.doubts[i]!,
      outdated: table.outdated[i]!,
      has_peaks: table.has_peaks[i]!,
      analysis: table.analyses[id] ?? null,
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
