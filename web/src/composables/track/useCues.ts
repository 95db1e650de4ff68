import { useStorage } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'
import type { Cue, CueRole } from '../../api/types'
import { useDrafts } from '../page/useDrafts'
import { useMarkup } from '../../stores/markup'
import { hasPreferred, meant, nameOf, newId, STAND_IN, type Quantum } from '../../time/cues'

/** A place that can be jumped to: a cue, or where a section begins. */
export interface Target {
  beat: number
  name: string
}

const FEW = 12

/** The cues of the track that is open, and what can be done to them. `heard` is the moment that is listened to. */
export function useCues(cursor: Ref<number>, heard: () => number | undefined) {
  const markup = useMarkup()
  const quantum = useStorage<Quantum>('fernbrook.quantum', 'beat')
  const chosenId = ref<string>()

  const beats = computed(() => markup.beats ?? STAND_IN)
  const stored = computed(() => markup.track?.markup.cues ?? [])
  const drafts = useDrafts(stored)
  const cues = computed(() => [...drafts.all.value].sort((a, b) => a.at - b.at))
  const suggested = computed(() => markup.track?.suggested_cues ?? [])
  const chosen = computed(() => cues.value.find((c) => c.id === chosenId.value))
  const areMany = computed(() => cues.value.length > FEW)
  const targets = computed(() => {
    const sections = markup.track?.markup.sections ?? []
    const all: Target[] = [
      ...cues.value.map((c) => ({ beat: c.at, name: nameOf(c) })),
      ...sections.map((s) => ({ beat: s.start, name: s.name || s.kind })),
    ]
    return all.sort((a, b) => a.beat - b.beat)
  })

  const secondsOf = (cue: Cue) => beats.value.timeAt(cue.at)
  const lineAt = (seconds: number) =>
    markup.beats
      ? meant(beats.value.beatAt(seconds), quantum.value, beats.value.bars)
      : beats.value.beatAt(seconds)

  const put = (list: Cue[], why: string) =>
    drafts.put(list, () => markup.send({ kind: 'put_cues', cues: list, why }))

  /** Set a cue where the track is heard at this moment, or at the cursor while it is silent. */
  function set(role: CueRole) {
    const cue: Cue = {
      id: newId(),
      at: lineAt(heard() ?? cursor.value),
      role,
      name: '',
      hue: null,
      note: '',
      preferred: hasPreferred(role) && !cues.value.some((c) => c.role === role),
    }
    chosenId.value = cue.id
    return put([cue], `set ${nameOf(cue).toLowerCase()}`)
  }

  function change(cue: Cue, changes: Partial<Cue>, why = 'change a cue') {
    return put([{ ...cue, ...changes }], why)
  }

  const moveTo = (cue: Cue, beat: number) => change(cue, { at: beat }, `move ${nameOf(cue).toLowerCase()}`)

  /** Move the chosen cue in time, by lines, or to the same place in another bar. */
  function nudge(by: { seconds?: number; beats?: number; bars?: number }) {
    const cue = chosen.value
    if (!cue) return
    if (by.seconds) return moveTo(cue, beats.value.beatAt(secondsOf(cue) + by.seconds))
    if (by.bars) return moveTo(cue, barsFrom(cue.at, by.bars))
    return moveTo(cue, cue.at + (by.beats ?? 0))
  }

  /** The same place so many bars later; before 0, earlier. */
  const barsFrom = (beat: number, by: number) => {
    const { bars } = beats.value
    const line = bars.down(beat)
    return bars.beatOf(bars.barOf(beat) + by) + beat - line
  }

  function remove(cue = chosen.value) {
    if (!cue) return
    const at = cues.value.indexOf(cue)
    chosenId.value = (cues.value[at + 1] ?? cues.value[at - 1])?.id
    return markup.send({ kind: 'remove_cues', ids: [cue.id] })
  }

  /** Make suggested cues real: the one nearest to the cursor, or all. */
  function accept(which: 'nearest' | 'all' | Cue) {
    if (!suggested.value.length) return
    const near = (cue: Cue) => Math.abs(secondsOf(cue) - cursor.value)
    const all = suggested.value.map((p) => p.cue)
    const wanted =
      which === 'all'
        ? all
        : [which === 'nearest' ? all.reduce((a, b) => (near(b) < near(a) ? b : a)) : which]
    if (wanted.length === 1) chosenId.value = wanted[0]!.id
    return put(
      wanted,
      wanted.length === 1 ? `accept ${nameOf(wanted[0]!)}` : `accept ${wanted.length} suggested cues`,
    )
  }

  /** The next jump target after a moment, or the one before it. */
  function target(from: number, way: 1 | -1): Target | undefined {
    const beat = beats.value.beatAt(from)
    const apart = 0.02
    return way > 0
      ? targets.value.find((t) => t.beat > beat + apart)
      : targets.value.findLast((t) => t.beat < beat - apart)
  }

  const choose = (cue: Cue) => void (chosenId.value = cue.id)
  const catchOn = (on: Quantum) => void (quantum.value = on)

  return {
    choose,
    catchOn,
    quantum,
    beats,
    cues,
    suggested,
    chosen,
    chosenId,
    areMany,
    secondsOf,
    lineAt,
    set,
    change,
    moveTo,
    nudge,
    barsFrom,
    remove,
    accept,
    target,
  }
}

export type Cues = ReturnType<typeof useCues>
