import { computed, ref, watch, type Ref } from 'vue'
import type { EntryClock } from '../time/entryClock'
import type { Command, PlannedTransition } from '../api/types'
import type { Catch } from './useSides'

export type Snap = 'bar' | 'beat' | 'none'
export type Part = 'start' | 'end' | 'body' | 'incoming'

/** Where a transition lies: beats of the outgoing, of the incoming, and its length. */
export interface Place {
  outAt: number
  inAt: number
  beats: number
}

const SHORTEST = 0.25

/**
 * The place of a transition while it is dragged: a draft that is drawn at once and sent when it is let go. It never
 * leaves the room that the plan gives.
 */
export function usePlacing(
  planned: Ref<PlannedTransition>,
  outgoing: Ref<Pick<EntryClock, 'mixBeat'>>,
  beatsPerBar: Ref<number>,
  snap: Ref<Snap>,
  send: (command: Command) => Promise<boolean>,
  catches: Ref<{ outgoing: Catch[]; incoming: Catch[] }>,
) {
  const stored = computed<Place>(() => {
    const t = planned.value.transition
    return { outAt: t.out_at, inAt: t.in_at, beats: t.beats }
  })
  const draft = ref<Place>()
  /** What the drag has caught on. */
  const caught = ref<string>()
  const place = computed(() => draft.value ?? stored.value)
  const start = computed(() => outgoing.value.mixBeat(place.value.outAt))
  const end = computed(() => start.value + place.value.beats)
  /** The mix beat of the incoming's beat 0. */
  const incomingOffset = computed(() => start.value - place.value.inAt)
  const unit = computed(() => ({ bar: beatsPerBar.value, beat: 1, none: 0.01 })[snap.value])

  watch(planned, () => (draft.value = undefined))

  /**
   * The place when a part is moved by some beats from where it lies stored. The start and the whole overlap move along
   * the outgoing track and take the incoming with them, so that its mix-in cue stays; the incoming is slid by itself.
   * Within `reach` of a cue or of a section's start, what is moved catches on it.
   */
  function moved(part: Part, by: number, reach = 0): Place {
    const { outAt, inAt, beats } = stored.value
    const room = planned.value.room
    const { outgoing: leaving, incoming: arriving } = catches.value
    switch (part) {
      case 'end': {
        const most = Math.min(room.out_to - outAt, room.in_to - inAt)
        const ends = [...leaving, ...shifted(arriving, outAt - inAt)]
        return { outAt, inAt, beats: within(line(outAt + beats + by, ends, reach) - outAt, SHORTEST, most) }
      }
      case 'start': {
        const earliest = Math.max(room.out_from, outAt + beats - (room.in_to - inAt))
        const at = within(line(outAt + by, leaving, reach), earliest, outAt + beats - SHORTEST)
        return { outAt: at, inAt, beats: outAt + beats - at }
      }
      case 'body': {
        const starts = [...leaving, ...shifted(leaving, -beats)]
        const at = line(outAt + by, starts, reach)
        return { outAt: within(at, room.out_from, room.out_to - beats), inAt, beats }
      }
      case 'incoming': {
        // Its cues may come to lie on either end of the overlap.
        const starts = [...arriving, ...shifted(arriving, -beats)]
        return {
          outAt,
          inAt: within(line(inAt - by, starts, reach), room.in_from, room.in_to - beats),
          beats,
        }
      }
    }
  }

  const shifted = (all: Catch[], by: number) => all.map((c) => ({ ...c, beat: c.beat + by }))

  /** The line that was meant: what is caught on, else the nearest of those that are snapped to. */
  function line(beat: number, all: Catch[], reach: number): number {
    const near = (c: Catch) => Math.abs(c.beat - beat)
    const nearest = all.reduce<Catch | undefined>((a, b) => (a && near(a) <= near(b) ? a : b), undefined)
    const found = nearest && near(nearest) < reach ? nearest : undefined
    caught.value = found?.name
    return found ? found.beat : Math.round(beat / unit.value) * unit.value
  }

  function drag(part: Part, by: number, reach = 0) {
    draft.value = moved(part, by, reach)
  }

  /** Send what the drag has come to. */
  async function drop() {
    const wanted = draft.value
    caught.value = undefined
    if (!wanted) return
    const sent = await put(wanted)
    if (!sent) draft.value = undefined
  }

  /** Move a part by a number of units, at once: for keys. */
  function nudge(part: Part, units: number) {
    return put(moved(part, units * unit.value))
  }

  /** Put the transition at a place; only what differs is sent. */
  async function put(wanted: Partial<Place>): Promise<boolean> {
    const old = stored.value
    const { out_id, in_id } = planned.value.transition
    const differs = (key: keyof Place) =>
      wanted[key] !== undefined && Math.abs(wanted[key] - old[key]) > 1e-9 ? wanted[key] : null
    const command = {
      kind: 'place_transition' as const,
      out_id,
      in_id,
      out_at: differs('outAt'),
      in_at: differs('inAt'),
      beats: differs('beats'),
    }
    if (command.out_at === null && command.in_at === null && command.beats === null) {
      draft.value = undefined
      return true
    }
    return send(command)
  }

  return {
    place,
    start,
    end,
    incomingOffset,
    unit,
    caught,
    drag,
    drop,
    nudge,
    put,
    dragging: computed(() => !!draft.value),
  }
}

function within(value: number, low: number, high: number): number {
  return Math.max(low, Math.min(value, high))
}

export type Placing = ReturnType<typeof usePlacing>
