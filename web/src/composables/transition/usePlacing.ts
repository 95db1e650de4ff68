import { computed, ref, watch, type Ref } from 'vue'
import type { EntryClock } from '../../time/entryClock'
import type { Command, PlannedTransition, Side } from '../../api/types'
import type { Catch } from '../../time/transitionSide'
import { useResting } from '../page/useResting'

export type Snap = 'bar' | 'beat' | 'none'
export type Part = 'start' | 'end' | 'body' | 'incoming' | 'lead'

/**
 * Where a transition lies: beats of the outgoing, of the incoming, and its length in beats of the outgoing, be it a blend,
 * a fade or the pause of two that are apart. A cut has a lead.
 */
export interface Place {
  outAt: number
  inAt: number
  beats: number
  lead: number
}

/** How a side counts: how many beats a bar has as a rule, and which begin one. */
export type Counted = Pick<EntryClock, 'bar' | 'bars'>

/** What of both entries is drawn on one line: the tempo of the outgoing, and its beats in one of the incoming. */
export interface Pace {
  outBpm: number
  scale: number
}

const SHORTEST = 0.25

/**
 * The place of a transition while it is dragged: a draft that is drawn at once and sent when it is let go. It never
 * leaves the room that the plan gives.
 */
export function usePlacing(
  planned: Ref<PlannedTransition>,
  outgoing: Ref<Pick<EntryClock, 'mixBeat'>>,
  bars: Ref<{ outgoing: Counted; incoming: Counted }>,
  snap: Ref<Snap>,
  send: (command: Command) => Promise<boolean>,
  catches: Ref<{ outgoing: Catch[]; incoming: Catch[] }>,
  pace: Ref<Pace> = ref({ outBpm: 120, scale: 1 }),
) {
  const kind = computed(() => planned.value.transition.kind)
  const stored = computed<Place>(() => {
    const t = planned.value.transition
    const beats = kind.value === 'blend' ? t.beats : beatsIn(t.seconds ?? 0)
    return { outAt: t.out_at, inAt: t.in_at, beats: kind.value === 'cut' ? 0 : beats, lead: t.lead ?? 0 }
  })
  const draft = ref<Place>()
  /** What the drag has caught on. */
  const caught = ref<string>()
  const pressed = useResting<Place>()
  const place = computed(() => draft.value ?? pressed.draft.value ?? stored.value)
  const start = computed(() => outgoing.value.mixBeat(place.value.outAt))
  const end = computed(() => start.value + place.value.beats)
  /** Where the curves of a side run. */
  const leads = computed(() => start.value - place.value.lead)
  /** Where the incoming's beat 0 lies. */
  const incomingOffset = computed(() => {
    const arrives = kind.value === 'apart' ? end.value : start.value
    return arrives - place.value.inAt * pace.value.scale
  })
  const unit = computed(() => ({ bar: bars.value.outgoing.bar, beat: 1, none: 0.01 })[snap.value])

  watch(planned, () => (draft.value = undefined))
  watch(() => `${planned.value.transition.out_id} ${planned.value.transition.in_id}`, pressed.leave)

  /**
   * The place when a part is moved by some beats from where it lay before. The start and the whole overlap move along
   * the outgoing track and take the incoming with them, so that its mix-in cue stays; the incoming is slid by itself.
   * Within `reach` of a cue or of a section's start, what is moved catches on it.
   */
  function moved(
    part: Part,
    by: number,
    reach = 0,
    before = pressed.draft.value ?? stored.value,
    step = unit.value,
  ): Place {
    const { outAt, inAt, beats, lead } = before
    const room = planned.value.room
    const { scale } = pace.value
    const { outgoing: leaving, incoming: arriving } = catches.value
    /** How much of it both must last for; a pause lies in neither. */
    const sounding = kind.value === 'apart' ? 0 : beats
    switch (part) {
      case 'end': {
        const most =
          kind.value === 'apart' ? Infinity : Math.min(room.out_to - outAt, (room.in_to - inAt) * scale)
        const ends = [...leaving, ...shifted(arriving, outAt - inAt)]
        const at = line(outAt + beats + by, scale === 1 ? ends : leaving, reach, step, 'outgoing')
        return { outAt, inAt, lead, beats: within(at - outAt, sounding ? SHORTEST : 0, most) }
      }
      case 'start': {
        if (!sounding)
          return {
            ...before,
            outAt: within(
              line(outAt + by, leaving, reach, step, 'outgoing'),
              room.out_from + lead,
              room.out_to,
            ),
          }
        const earliest = Math.max(room.out_from, outAt + beats - (room.in_to - inAt) * scale)
        const at = within(
          line(outAt + by, leaving, reach, step, 'outgoing'),
          earliest,
          outAt + beats - SHORTEST,
        )
        return { outAt: at, inAt, lead, beats: outAt + beats - at }
      }
      case 'body': {
        const starts = [...leaving, ...shifted(leaving, -sounding)]
        const at = line(outAt + by, starts, reach, step, 'outgoing')
        return { outAt: within(at, room.out_from + lead, room.out_to - sounding), inAt, beats, lead }
      }
      case 'lead': {
        const at = within(line(outAt - lead + by, leaving, reach, step, 'outgoing'), room.out_from, outAt)
        return { outAt, inAt, beats, lead: outAt - at }
      }
      case 'incoming': {
        // Its cues may come to lie on either end of the overlap.
        const starts = [...arriving, ...shifted(arriving, -sounding / scale)]
        const at = line(inAt - by / scale, starts, reach, step, 'incoming')
        return { outAt, beats, lead, inAt: within(at, room.in_from, room.in_to - sounding / scale) }
      }
    }
  }
  const shifted = (all: Catch[], by: number) => all.map((c) => ({ ...c, beat: c.beat + by }))

  /** The line that was meant: what is caught on, else the nearest of those that are snapped to, `step` apart. */
  function line(beat: number, all: Catch[], reach: number, step: number, side: Side): number {
    const near = (c: Catch) => Math.abs(c.beat - beat)
    const nearest = all.reduce<Catch | undefined>((a, b) => (a && near(a) <= near(b) ? a : b), undefined)
    const found = nearest && near(nearest) < reach ? nearest : undefined
    caught.value = found?.name
    return found ? found.beat : snapped(beat, step, side)
  }

  /** The nearest line `step` apart; where that is a bar, of the bars that the side has there, odd ones included. */
  function snapped(beat: number, step: number, side: Side): number {
    const { bar, bars: lines } = bars.value[side]
    if (step !== bars.value.outgoing.bar) return Math.round(beat / step) * step
    const each = bar / step
    return lines.beatOf(Math.round(lines.at(beat) * each) / each)
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

  /** Move a part by a number of steps from where it is shown: for keys, several presses of which are one change. */
  function nudge(part: Part, steps: number, step = unit.value) {
    const wanted = moved(part, steps * step, 0, undefined, step)
    caught.value = undefined
    // What is on its way is not stored yet: what goes back to it is a change as well.
    const command = commandFor(wanted, pressed.isUnderWay.value)
    pressed.put(wanted, () => (command ? send(command) : Promise.resolve(true)))
  }

  /** Put the transition at a place; only what differs is sent. */
  async function put(wanted: Partial<Place>): Promise<boolean> {
    await pressed.flush()
    const command = commandFor(wanted)
    if (command) return send(command)
    draft.value = undefined
    return true
  }

  /** What puts the transition at a place; only what differs is said, unless all is to be. */
  function commandFor(wanted: Partial<Place>, all = false): Command | undefined {
    const old = stored.value
    const { out_id, in_id } = planned.value.transition
    const differs = (key: keyof Place) =>
      wanted[key] !== undefined && (all || Math.abs(wanted[key] - old[key]) > 1e-9) ? wanted[key] : null
    const length = differs('beats')
    const command = {
      kind: 'place_transition' as const,
      out_id,
      in_id,
      out_at: differs('outAt'),
      in_at: differs('inAt'),
      beats: kind.value === 'blend' ? length : null,
      seconds: kind.value === 'blend' || length === null ? null : (length * 60) / pace.value.outBpm,
      lead: differs('lead'),
    }
    const { out_at, in_at, beats, seconds, lead } = command
    return [out_at, in_at, beats, seconds, lead].some((value) => value !== null) ? command : undefined
  }

  function beatsIn(seconds: number) {
    return (seconds * pace.value.outBpm) / 60
  }

  return {
    place,
    start,
    end,
    leads,
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
