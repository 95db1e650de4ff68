import { computed, type Ref } from 'vue'
import type { Entry, PlannedTransition } from '../../api/types'
import type { Clock } from '../../time/clock'
import { nameOf } from '../../time/cues'
import { EntryClock } from '../../time/entryClock'
import type { TransitionSide } from '../../time/transitionSide'
import { useGrids } from '../mix/useGrids'

/**
 * Both sides of a transition, drawn by the clock of the outgoing. They are there at once; what needs their grids follows
 * when these have come.
 */
export function useSides(
  outgoing: Ref<Entry | undefined>,
  incoming: Ref<Entry | undefined>,
  planned: Ref<PlannedTransition | undefined>,
  clocks: Ref<Clock[]>,
) {
  const grids = useGrids(computed(() => [outgoing.value, incoming.value]))
  const axis = computed(() => clocks.value[outgoing.value?.clock ?? 0])

  function sideOf(entry: Entry | undefined, offset?: number, scale?: number): TransitionSide | undefined {
    if (!entry) return undefined
    const track = grids.value.get(entry.track_id)
    const cues = track?.cues ?? []
    const clock = EntryClock.of(entry, track?.grid, offset, scale)
    const catches = [
      ...cues.map((c) => ({ at: c.at, name: nameOf(c) })),
      ...(track?.sections ?? []).map((s) => ({ at: s.start, name: s.name || s.kind })),
    ].flatMap(({ at, name }) => clock.placesOf(at).map((beat) => ({ beat, name })))
    return {
      entry,
      clock,
      voice: (track?.voice ?? []).flatMap((v) => clock.spansOf(v.start, v.end)),
      cues,
      suggested: (track?.suggested_cues ?? []).filter((p) => p.cue.role !== 'plain'),
      catches,
    }
  }

  /** An incoming whose beats are not locked lies at the moment at which it starts, at its own pace. */
  function arriving(): TransitionSide | undefined {
    const [out, into, here] = [outgoing.value, incoming.value, planned.value]
    if (!out || !into || !here || !axis.value || out.clock === into.clock) return sideOf(into)
    const scale = out.home_bpm / into.home_bpm
    const starts = axis.value.beatAt(here.in_span?.start_s ?? here.start_s)
    return sideOf(into, starts - here.transition.in_at * scale, scale)
  }

  return { axis, outgoing: computed(() => sideOf(outgoing.value)), incoming: computed(arriving) }
}
