import { computed, type Ref } from 'vue'
import { useMarkup, type Place, type Range } from '../../stores/markup'

/** What can be done to a grid with one key: to the line nearest to the cursor, or at the cursor itself. */
export interface GridAction {
  id: string
  key: string
  label: string
  run: () => Promise<unknown> | void
}

const MS = 0.001
/** Nearer to a line than this the cursor means the line: a click is no finer. */
const ON_LINE_S = 0.02
const RATIOS = { half: 0.5, double: 2 }

export function useGridActions(cursor: Ref<number>, range: Ref<Range>) {
  const markup = useMarkup()
  /** The beat of the line nearest to the cursor. */
  const beat = computed(() => (markup.beats ? Math.round(markup.beats.beatAt(cursor.value)) : 0))
  /** How far after its nearest line the cursor lies, in seconds. */
  const off = computed(() => (markup.beats ? cursor.value - markup.beats.timeAt(beat.value) : 0))
  /** What the cursor means: its line, or where it is itself. */
  const place = computed<Place>(() =>
    Math.abs(off.value) > ON_LINE_S ? { beat: beat.value, at_s: cursor.value } : { beat: beat.value },
  )
  const isAnchor = computed(
    () => markup.grid?.anchors.some((a) => Math.abs(a.beat - beat.value) < 1e-6) ?? false,
  )

  /** How many beats bars have at the cursor, and whether they start again with its line. */
  const bar = computed(() => {
    const runs = (markup.grid?.bars_from ?? []).filter((b) => b.beat <= beat.value)
    const run = runs[runs.length - 1]
    return {
      beats: run && (run.beat > 0 || beat.value < 0) ? run.beats : (markup.grid?.beats_per_bar ?? 4),
      isAnew: run?.beat === beat.value,
    }
  })

  const slide = (by: number) => markup.send({ kind: 'slide', by_s: by })
  const oneBeat = (direction: number) =>
    slide(markup.beats!.timeAt(beat.value + direction) - markup.beats!.timeAt(beat.value))

  const actions: GridAction[] = [
    { id: 'earlier', key: ',', label: '1 ms earlier', run: () => slide(-MS) },
    { id: 'later', key: '.', label: '1 ms later', run: () => slide(MS) },
    { id: 'earlier10', key: '<', label: '10 ms earlier', run: () => slide(-10 * MS) },
    { id: 'later10', key: '>', label: '10 ms later', run: () => slide(10 * MS) },
    { id: 'beatEarlier', key: '[', label: 'One beat earlier', run: () => oneBeat(-1) },
    { id: 'beatLater', key: ']', label: 'One beat later', run: () => oneBeat(1) },
    { id: 'snap', key: 's', label: 'Snap to the onset', run: () => markup.snap(place.value) },
    {
      id: 'lineHere',
      key: 'v',
      label: 'Line here: slide the grid until its nearest line lies at the cursor',
      run: () => void (off.value && slide(off.value)),
    },
    {
      id: 'one',
      key: 'b',
      label: 'Bar 1 starts here',
      run: () => markup.send({ kind: 'count_from', beat: beat.value }),
    },
    {
      id: 'barHere',
      key: 'B',
      label: 'Bar starts here, for what follows',
      run: () => {
        const { beats: length, isAnew } = bar.value
        return isAnew
          ? markup.send({ kind: 'bars_go_on', beat: beat.value })
          : markup.send({ kind: 'bars_begin', beat: beat.value, beats: length })
      },
    },
    {
      id: 'first',
      key: 'f',
      label: 'First of its bar',
      run: () => markup.send({ kind: 'first_of_bar', beat: beat.value }),
    },
    {
      id: 'halve',
      key: 'h',
      label: 'Halve',
      run: () => markup.send({ kind: 'scale_tempo', factor: RATIOS.half }),
    },
    {
      id: 'double',
      key: 'd',
      label: 'Double',
      run: () => markup.send({ kind: 'scale_tempo', factor: RATIOS.double }),
    },
    {
      id: 'round',
      key: 'r',
      label: 'Round to whole',
      run: () => markup.send({ kind: 'round_tempo', about_beat: beat.value }),
    },
    {
      id: 'anchor',
      key: 'a',
      label: 'Anchor',
      run: () => markup.send({ kind: isAnchor.value ? 'remove_anchor' : 'add_anchor', beat: beat.value }),
    },
    {
      id: 'measureFrom',
      key: 'e',
      label: 'Measure from here on',
      run: () => markup.measureFrom(place.value, range.value),
    },
    { id: 'follow', key: 'w', label: 'Follow, by the beat', run: () => markup.follow(1) },
    {
      id: 'followBars',
      key: 'W',
      label: 'Follow, by the bar',
      run: () => markup.follow(markup.grid?.beats_per_bar ?? 1),
    },
    { id: 'analysed', key: 'z', label: 'Back to the analysed grid', run: () => markup.backToAnalysed() },
    {
      id: 'checked',
      key: 'c',
      label: 'Mark as checked',
      run: () => markup.send({ kind: 'mark_checked', checked: !markup.track?.markup.checked }),
    },
  ]
  const byId = Object.fromEntries(actions.map((a) => [a.id, a])) as Record<string, GridAction>
  const byKey = new Map(actions.map((a) => [a.key, a]))
  return { beat, off, place, isAnchor, bar, all: actions, byId, byKey, slide }
}

export type GridActions = ReturnType<typeof useGridActions>
