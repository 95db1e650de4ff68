import { useElementSize, useSessionStorage, useStorage } from '@vueuse/core'
import { computed, inject, provide, ref, watch, type InjectionKey, type Ref } from 'vue'
import type { Placing, PlannedTransition } from '../../api/types'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'
import type { Clock } from '../../time/clock'
import type { TransitionSide } from '../../time/transitionSide'
import { useLanes } from './useLanes'
import { usePlacing, type Snap } from './usePlacing'
import { useProposals } from './useProposals'
import { useSeamView } from './useSeamView'

/** Beats that are in view before and after the overlap when it is shown as a whole. */
const AROUND = 12

/** What was in view of the transition that was looked at last: who goes to another view and back finds it so. */
const looked = useSessionStorage('fernbrook.looked', { which: '', from: 0, perBeat: 1 })

/** The transition that is looked at. */
export interface ShownTransition {
  planned: PlannedTransition
  /** The clock by which all of it is drawn: that of the outgoing. */
  axis: Clock
  outgoing: TransitionSide
  incoming: TransitionSide
  /** All that are chosen by their numbers, this one included. */
  several: number[]
}

/**
 * All that stage, lanes and panel share of the transition that is looked at: where it lies, a drag under way included,
 * what part of it is in view, its curves, its proposals, and where it plays.
 */
function made(shown: Ref<ShownTransition>) {
  const mix = useMix()
  const listening = useListening()
  const planned = computed(() => shown.value.planned)
  const axis = computed(() => shown.value.axis)
  const outgoing = computed(() => shown.value.outgoing)
  const incoming = computed(() => shown.value.incoming)
  const several = computed(() => shown.value.several)
  const t = computed(() => planned.value.transition)
  const kind = computed(() => t.value.kind)
  const pair = computed(() => ({ out_id: t.value.out_id, in_id: t.value.in_id }))
  /** Whether both sides go by one clock. */
  const isLocked = computed(() => kind.value === 'blend' || kind.value === 'cut')
  const bar = computed(() => outgoing.value.clock.bar)
  /** From which tempo to which it goes: what the one has where it begins, and the other where it is over. */
  const tempi = computed(() => {
    const { out_at, in_at, beats } = t.value
    return { from: outgoing.value.clock.leadsAt(out_at), to: incoming.value.clock.leadsAt(in_at + beats) }
  })

  const snap = useStorage<Snap>('fernbrook.snap', 'bar')
  const snapBeats = computed(() => ({ bar: bar.value, beat: 1, none: 0 })[snap.value])
  const placing = usePlacing(
    planned,
    computed(() => outgoing.value.clock),
    computed(() => ({ outgoing: outgoing.value.clock, incoming: incoming.value.clock })),
    snap,
    mix.send,
    computed(() => ({ outgoing: outgoing.value.catches, incoming: incoming.value.catches })),
    computed(() => ({ outBpm: tempi.value.from, scale: incoming.value.clock.scale })),
  )

  /** The element in which it is drawn; set by the stage. */
  const stage = ref<HTMLElement>()
  const { width } = useElementSize(stage)
  const view = useSeamView(stage, width)
  const lanes = useLanes(planned, placing, view, snapBeats, mix.send)
  const fit = () => view.fit(placing.leads.value - AROUND, placing.end.value + AROUND)
  const fitted = ref('')
  watch(
    [() => `${mix.mix?.id} ${t.value.out_id} ${t.value.in_id} ${kind.value}`, width],
    ([which, w]) => {
      if (!w || fitted.value === which) return
      fitted.value = which
      if (looked.value.which === which) view.show(looked.value.from, looked.value.perBeat)
      else fit()
    },
    { immediate: true },
  )
  watch([view.from, view.perBeat], ([from, perBeat]) => {
    if (fitted.value) looked.value = { which: fitted.value, from, perBeat }
  })

  const playhead = computed(() => (mix.mix ? listening.secondsIn('mix', mix.mix.id) : undefined))
  const playBeat = computed(() =>
    playhead.value === undefined ? undefined : axis.value.beatAt(playhead.value),
  )

  const { proposals } = useProposals(planned)
  /** The proposal that is looked at. */
  const pointed = ref<Placing>()

  return {
    planned, axis, outgoing, incoming, several, t, kind, pair, isLocked, bar, snap, snapBeats, placing, stage, width, view,
    tempi, fit, playhead, playBeat, proposals, pointed, ...lanes,
  } // prettier-ignore
}

export type TransitionState = ReturnType<typeof made>

const KEY: InjectionKey<TransitionState> = Symbol('transition')

/** Give what is inside of a component the transition that is looked at. */
export function provideTransition(shown: Ref<ShownTransition>): TransitionState {
  const state = made(shown)
  provide(KEY, state)
  return state
}

/** The transition that is looked at. */
export function useTransition(): TransitionState {
  const state = inject(KEY)
  if (!state) throw new Error('There is no transition around this: a parent has to provide one.')
  return state
}
