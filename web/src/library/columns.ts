import { clockTime, tempoOf } from '../time/format'
import type { ListedTrack } from './trackTable'

/** A column of the table of tracks; `key` is what the server sorts it by. */
export interface ColumnSpec {
  key: string
  label: string
  /** A track of a CSS grid. */
  width: string
  right?: boolean
  text: (track: ListedTrack) => string
}

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: '2-digit' })
const decibel = (value: number | null) => (value === null ? '' : value.toFixed(1).replace('-', '−'))
const percent = (share: number | null) => (share === null ? '' : `${Math.round(share * 100)} %`)

export const COLUMNS: readonly ColumnSpec[] = [
  { key: 'title', label: 'Title', width: 'minmax(120px, 1.4fr)', text: (t) => t.title },
  { key: 'artist', label: 'Artist', width: 'minmax(90px, 0.9fr)', text: (t) => t.artist },
  { key: 'album', label: 'Album', width: 'minmax(80px, 0.8fr)', text: (t) => t.album },
  { key: 'genre', label: 'Genre', width: '90px', text: (t) => t.genre },
  { key: 'year', label: 'Year', width: '44px', right: true, text: (t) => (t.year ? String(t.year) : '') },
  { key: 'comment', label: 'Comment', width: 'minmax(80px, 0.8fr)', text: (t) => t.comment },
  { key: 'bpm', label: 'BPM', width: '72px', right: true, text: tempoOf },
  { key: 'key', label: 'Key', width: '44px', text: (t) => t.key ?? '' },
  { key: 'energy', label: 'Energy', width: '52px', right: true, text: (t) => (t.energy === null ? '' : (t.energy * 10).toFixed(1)) }, // prettier-ignore
  { key: 'voice', label: 'Voice', width: '50px', right: true, text: (t) => percent(t.voice_share) },
  { key: 'length', label: 'Length', width: '50px', right: true, text: (t) => clockTime(t.duration_s) },
  { key: 'tags', label: 'Tags', width: 'minmax(80px, 0.8fr)', text: (t) => t.tags.join(', ') },
  { key: 'cues', label: 'Cues', width: '40px', right: true, text: (t) => (t.cue_marks.length ? String(t.cue_marks.length) : '') }, // prettier-ignore
  { key: 'loudness', label: 'LUFS', width: '52px', right: true, text: (t) => decibel(t.loudness_lufs) },
  { key: 'peak', label: 'Peak', width: '50px', right: true, text: (t) => decibel(t.true_peak_dbtp) },
  { key: 'kind', label: 'File', width: '50px', text: (t) => t.format },
  { key: 'bitrate', label: 'kbit/s', width: '52px', right: true, text: (t) => (t.bit_rate ? String(Math.round(t.bit_rate / 1000)) : '') }, // prettier-ignore
  { key: 'rate', label: 'kHz', width: '48px', right: true, text: (t) => String(t.rate / 1000) },
  { key: 'channels', label: 'Channels', width: '64px', text: (t) => (t.channels === 1 ? 'mono' : t.channels === 2 ? 'stereo' : String(t.channels)) }, // prettier-ignore
  { key: 'doubts', label: 'File doubts', width: 'minmax(90px, 0.9fr)', text: (t) => t.file_doubts.join(' ') },
  { key: 'lists', label: 'Lists', width: 'minmax(80px, 0.8fr)', text: (t) => t.lists.join(', ') },
  { key: 'used', label: 'Used in', width: 'minmax(80px, 0.8fr)', text: (t) => t.used_in.join(', ') },
  { key: 'added', label: 'Added', width: '76px', text: (t) => day.format(new Date(t.added_at)) },
]

/** The key that sorts nothing: no track is worse than another by its sentences. */
export const UNSORTED = new Set(['doubts'])
export const FIRST_COLUMNS = ['title', 'artist', 'bpm', 'key', 'length', 'tags', 'loudness', 'added']
