import { computed, ref } from 'vue'
import type { TempoMark } from '../../api/types'
import { useMix } from '../../stores/mix'
import { laidMarks, markAt, withMark, type LaidMark } from '../../time/tempoMarks'

const SLOWEST = 20
const FASTEST = 400
const WAYS: TempoMark['onward'][] = ['straight', 'smooth', 'step']

/** The tempi that were set by hand: as they lie, and as they are while one is dragged. */
export function useTempoMarks() {
  const mix = useMix()
  const draft = ref<LaidMark[]>()
  const laid = computed(() => (mix.mix && mix.plan ? laidMarks(mix.mix.tempo_marks, mix.plan) : []))
  const shown = computed(() => draft.value ?? laid.value)
  const rounded = (bpm: number) => Math.round(Math.min(Math.max(bpm, SLOWEST), FASTEST) * 10) / 10

  async function send(marks: readonly LaidMark[]) {
    const done = await mix.send({ kind: 'set_tempo_marks', marks: marks.map((m) => m.mark) })
    draft.value = undefined
    return done
  }

  /** A point at a beat of the mix, to the whole. */
  function add(beat: number, bpm: number) {
    return mix.plan ? send(withMark(laid.value, Math.round(beat), rounded(bpm), mix.plan)) : undefined
  }

  /** Where a point is while it is dragged; to whole beats. */
  function move(index: number, beat: number, bpm: number) {
    const was = laid.value[index]
    if (!was || !mix.plan) return
    const now = markAt(Math.round(beat), rounded(bpm), mix.plan, was.mark.onward)
    if (now.clock !== was.clock) return
    draft.value = laid.value.map((m, i) => (i === index ? now : m))
  }

  const drop = () => (draft.value ? send([...draft.value].sort((a, b) => a.beat - b.beat)) : undefined)

  function change(index: number, update: Partial<Pick<TempoMark, 'bpm' | 'onward'>>) {
    return send(laid.value.map((m, i) => (i === index ? { ...m, mark: { ...m.mark, ...update } } : m)))
  }

  const remove = (index: number) => send(laid.value.filter((_, i) => i !== index))

  /** Straight, smooth, a step, and round again. */
  function turn(index: number) {
    const now = laid.value[index]?.mark.onward
    if (now) void change(index, { onward: WAYS[(WAYS.indexOf(now) + 1) % WAYS.length]! })
  }

  return {
    laid,
    shown,
    isDrafted: computed(() => draft.value !== undefined),
    add,
    move,
    drop,
    change,
    remove,
    turn,
  }
}

export type TempoMarks = ReturnType<typeof useTempoMarks>
