import type { Section, VoiceSpan } from '../api/types'
import type { BarLines } from './barLines'
import type { BeatGrid } from './grid'

/** Where a section or span lies over a whole track: its left edge and its width, as shares of it. */
export function extent(span: VoiceSpan, beats: BeatGrid, duration: number) {
  const share = (beat: number) => Math.min(1, Math.max(0, beats.timeAt(beat) / duration))
  const left = share(span.start)
  return { left, width: share(span.end) - left }
}

/** Changes of what a track consists of. Sections touch each other; voice spans lie apart. All count in beats. */

/** Sections with the border at the start of one of them moved to a bar between its neighbours. */
export function withBorder(sections: Section[], index: number, beat: number, bars: BarLines): Section[] {
  const low = sections[index - 1]!.start
  const high = sections[index]!.end
  const at = Math.min(
    Math.max(bars.nearest(beat), low + bars.lengthOf(bars.barOf(low))),
    high - bars.lengthOf(bars.barOf(high) - 1),
  )
  return sections.map((s, i) => {
    if (i === index) return { ...s, start: at }
    return i === index - 1 ? { ...s, end: at } : s
  })
}

/** A section in two, at the bar nearest to a beat within it, else at its middle; unchanged when it is one bar long. */
export function splitSection(sections: Section[], index: number, beat: number, bars: BarLines): Section[] {
  const s = sections[index]!
  const wanted = bars.nearest(beat)
  const at = wanted > s.start && wanted < s.end ? wanted : bars.nearest((s.start + s.end) / 2)
  return at > s.start && at < s.end ? halved(sections, index, at, at) : sections
}

const SHORTEST = 1

/** Voice spans with an edge of one of them at another beat, short of its neighbours. */
export function withEdge(
  spans: VoiceSpan[],
  index: number,
  edge: 'start' | 'end',
  beat: number,
): VoiceSpan[] {
  const span = spans[index]!
  const [low, high] =
    edge === 'start'
      ? [spans[index - 1]?.end ?? -Infinity, span.end - SHORTEST]
      : [span.start + SHORTEST, spans[index + 1]?.start ?? Infinity]
  return spans.map((s, i) => (i === index ? { ...s, [edge]: Math.min(Math.max(beat, low), high) } : s))
}

/** Voice spans with one moved as a whole, short of its neighbours. */
export function withMoved(spans: VoiceSpan[], index: number, beats: number): VoiceSpan[] {
  const span = spans[index]!
  const by = Math.min(
    Math.max(beats, (spans[index - 1]?.end ?? -Infinity) - span.start),
    (spans[index + 1]?.start ?? Infinity) - span.end,
  )
  return spans.map((s, i) => (i === index ? { start: s.start + by, end: s.end + by } : s))
}

/** Voice spans with another one from one beat to another, those that it meets joined to it. */
export function withSpan(spans: VoiceSpan[], from: number, to: number): VoiceSpan[] {
  const start = Math.min(from, to)
  const end = Math.max(from, to, start + SHORTEST)
  const met = spans.filter((s) => s.end >= start && s.start <= end)
  const joined = {
    start: Math.min(start, ...met.map((s) => s.start)),
    end: Math.max(end, ...met.map((s) => s.end)),
  }
  return [...spans.filter((s) => !met.includes(s)), joined].sort((a, b) => a.start - b.start)
}

/** A voice span in two with a beat of silence between them; unchanged when it is too short for that. */
export function splitSpan(spans: VoiceSpan[], index: number, beat: number): VoiceSpan[] {
  const s = spans[index]!
  const at = beat > s.start && beat < s.end ? beat : (s.start + s.end) / 2
  if (at - 0.5 - s.start < SHORTEST || s.end - at - 0.5 < SHORTEST) return spans
  return halved(spans, index, at - 0.5, at + 0.5)
}

/** Sections or spans with one joined to the next. */
export function joined<T extends VoiceSpan>(spans: T[], index: number): T[] {
  const next = spans[index + 1]!
  return spans.map((s, i) => (i === index ? { ...s, end: next.end } : s)).filter((_, i) => i !== index + 1)
}

function halved<T extends VoiceSpan>(spans: T[], index: number, end: number, start: number): T[] {
  return spans.flatMap((s, i) =>
    i === index
      ? [
          { ...s, end },
          { ...s, start },
        ]
      : [s],
  )
}
