import { computed, ref, watch, type Ref } from 'vue'
import type { Edit, Entry, Section, Stem, TrackGrid } from '../../api/types'
import { useMix } from '../../stores/mix'
import { BarLines, PHRASE_BARS } from '../../time/barLines'
import { newId } from '../../time/cues'

/** A span of a track, in beats of its grid. */
export interface GridSpan {
  start: number
  end: number
}

/** The phrases of a track: from each section on, every eight bars; what is left is shorter. */
export function phrasesOf(
  sections: readonly Section[],
  bars: BarLines,
  first: number,
  last: number,
): GridSpan[] {
  const lines = new Set([first, last, ...sections.map((s) => s.start)])
  const borders = [...lines].filter((b) => b >= first && b <= last).sort((a, b) => a - b)
  return borders.slice(0, -1).flatMap((start, i) => {
    const end = borders[i + 1]!
    const [from, to] = [bars.at(start), bars.at(end)]
    const count = Math.max(1, Math.round((to - from) / PHRASE_BARS))
    const border = (k: number) => bars.beatOf(from + k * PHRASE_BARS)
    return [...Array(count).keys()].map((k) => ({
      start: k ? border(k) : start,
      end: k + 1 === count ? end : border(k + 1),
    }))
  })
}

/** A span of a track that is chosen in an entry, and what can be done to it. */
export function useEditing(entry: Ref<Entry | undefined>, track: Ref<TrackGrid | undefined>) {
  const mix = useMix()
  const span = ref<GridSpan>()
  watch(
    () => entry.value?.id,
    () => (span.value = undefined),
  )
  const edits = computed(() => entry.value?.edited?.edits ?? [])
  const perBar = computed(() => track.value?.grid?.beats_per_bar ?? 4)
  const bars = computed(() => (track.value?.grid ? BarLines.ofGrid(track.value.grid) : BarLines.every(4)))

  const put = (edit: Edit) =>
    entry.value && mix.send({ kind: 'put_edits', entry_id: entry.value.id, edits: [edit] })

  function made(more: Partial<Edit> & Pick<Edit, 'kind'>) {
    if (!span.value) return undefined
    const { start, end } = span.value
    return put({ id: newId(), start, end, on: true, ...more } as Edit)
  }

  return {
    span,
    choose: (chosen: GridSpan | undefined) => (span.value = chosen),
    edits,
    perBar,
    bars,
    skip: () => made({ kind: 'skip' }),
    repeat: (times: number | null) => made({ kind: 'repeat', times }),
    drop: (stems: Stem[]) => made({ kind: 'drop_out', stems }),
    /** The chosen span and the one that follows it, of the same length, change places. */
    swapWithNext: () => {
      const end = span.value?.end ?? 0
      const length = end - (span.value?.start ?? 0)
      return made({ kind: 'swap', other_start: end, other_end: end + length })
    },
    turn: (edit: Edit) => put({ ...edit, on: !edit.on }),
    change: put,
    remove: (ids: string[] | null) =>
      entry.value && mix.send({ kind: 'remove_edits', entry_id: entry.value.id, ids }),
    asRecorded: (on: boolean) =>
      entry.value && mix.send({ kind: 'play_as_recorded', entry_id: entry.value.id, as_recorded: on }),
  }
}

export type Editing = ReturnType<typeof useEditing>
