import type { BarLines } from './barLines'

/** Minutes and seconds, hours where there are any: 3:07, 1:02:07. */
export function clockTime(seconds: number): string {
  const whole = Math.max(0, Math.floor(seconds))
  const rest = String(whole % 60).padStart(2, '0')
  const minutes = Math.floor(whole / 60) % 60
  const hours = Math.floor(whole / 3600)
  return hours ? `${hours}:${String(minutes).padStart(2, '0')}:${rest}` : `${minutes}:${rest}`
}

/** Like `clockTime`, with tenths: 3:07.4. */
export function clockTenths(seconds: number): string {
  const tenths = Math.floor(Math.max(0, seconds) * 10 + 1e-6)
  return `${clockTime(tenths / 10)}.${tenths % 10}`
}

/** Bar and beat as musicians count them: beat 0 is 1.1, beat -1 the last of bar 0. */
export function barBeat(beat: number, bars: BarLines): string {
  const shown = Math.round(beat * 100) / 100
  const within = Math.round(bars.within(shown) * 100) / 100 + 1
  return `${bars.barOf(shown) + 1}.${Number.isInteger(within) ? within : within.toFixed(2)}`
}

/** A length in seconds: 12 s, 2.5 s. */
export function secondsLong(seconds: number): string {
  return `${Math.round(seconds * 10) / 10} s`
}

/** A number of beats: 1 beat, 3 beats. */
export function beatsLong(beats: number): string {
  return `${beats} ${beats === 1 ? 'beat' : 'beats'}`
}

/** A length in bars and beats: 16 bars, 2 bars 3 beats. */
export function barsLong(beats: number, beatsPerBar: number): string {
  const bars = Math.floor(beats / beatsPerBar + 1e-6)
  const rest = Math.round((beats - bars * beatsPerBar) * 100) / 100
  const parts = []
  if (bars || !rest) parts.push(`${bars} ${bars === 1 ? 'bar' : 'bars'}`)
  if (rest) parts.push(beatsLong(rest))
  return parts.join(' ')
}

/** A tempo: whole where it is whole, else up to two decimals. */
export function bpm(value: number): string {
  return String(Math.round(value * 100) / 100)
}

/** The tempo of a track: from which to which, to a tenth, where it means to change it. */
export function tempoOf(track: {
  bpm: number | null
  comes_bpm: number | null
  leaves_bpm: number | null
}): string {
  const { comes_bpm: comes, leaves_bpm: leaves } = track
  if (comes !== null && leaves !== null)
    return [comes, leaves].map((b) => Math.round(b * 10) / 10).join(' → ')
  return track.bpm === null ? '' : bpm(track.bpm)
}

/** Decibels with a sign. */
export function decibels(value: number): string {
  const rounded = Math.round(value * 10) / 10
  return `${rounded > 0 ? '+' : rounded < 0 ? '−' : '±'}${Math.abs(rounded).toFixed(1)} dB`
}

/** A loudness. */
export function lufs(value: number): string {
  return `${String(Math.round(value * 10) / 10).replace('-', '−')} LUFS`
}

/** A change of speed in percent, with a sign. */
export function percent(share: number): string {
  const value = Math.round(share * 1000) / 10
  return value === 0 ? '0 %' : `${value > 0 ? '+' : '−'}${Math.abs(value).toFixed(1)} %`
}

/** A file size. */
export function megabytes(bytes: number): string {
  if (bytes < 1e6) return `${Math.ceil(bytes / 1e3)} kB`
  if (bytes < 1e9) return `${(bytes / 1e6).toFixed(bytes < 1e8 ? 1 : 0)} MB`
  return `${(bytes / 1e9).toFixed(1)} GB`
}

/** How long something takes, as one says it: ‘about 3 min’. */
export function aboutTime(seconds: number): string {
  if (seconds < 45) return 'less than a minute'
  const minutes = Math.round(seconds / 60)
  return minutes < 60 ? `about ${minutes} min` : `about ${Math.floor(minutes / 60)} h ${minutes % 60} min`
}
