import { computed, ref } from 'vue'
import type { Loop } from '../../api/types'
import { useDrafts } from '../page/useDrafts'
import { useMarkup } from '../../stores/markup'
import { newId, scaled, STAND_IN } from '../../time/cues'
import type { Cues } from './useCues'

/** The loops of the track that is open, and what can be done to them. */
export function useLoops(cues: Cues, here: () => number) {
  const markup = useMarkup()
  const chosenId = ref<string>()

  const beats = computed(() => markup.beats ?? STAND_IN)
  const drafts = useDrafts(computed(() => markup.track?.markup.loops ?? []))
  const loops = drafts.all
  const suggested = computed(() => markup.track?.suggested_loops ?? [])
  const chosen = computed(() => loops.value.find((l) => l.id === chosenId.value))

  const put = (loop: Loop, why: string) => {
    chosenId.value = loop.id
    return drafts.put([loop], () => markup.send({ kind: 'put_loops', loops: [loop], why }))
  }

  /** Set a loop from the moment that is heard, or from the cursor, four bars long. */
  function set(bars = 4) {
    const start = cues.lineAt(here())
    return put(
      { id: newId(), start, beats: cues.barsFrom(start, bars) - start, kind: 'plain', name: '' },
      'set a loop',
    )
  }

  const change = (loop: Loop, changes: Partial<Loop>, why = 'change a loop') =>
    put({ ...loop, ...changes }, why)
  const scale = (loop: Loop, factor: 0.5 | 2) =>
    put(scaled(loop, factor, beats.value.beatsPerBar), factor < 1 ? 'halve a loop' : 'double a loop')
  const move = (loop: Loop, times: 1 | -1) =>
    change(loop, { start: loop.start + times * loop.beats }, 'move a loop on by its length')
  const again = (loop: Loop) =>
    put({ ...loop, id: newId(), start: loop.start + loop.beats }, 'again after it')
  const accept = (loop: Loop) => put(loop, 'accept a suggested loop')
  const remove = (loop: Loop) => markup.send({ kind: 'remove_loops', ids: [loop.id] })

  /** Where a loop lies in seconds. */
  const spanOf = (loop: Loop) => ({
    from: beats.value.timeAt(loop.start),
    to: beats.value.timeAt(loop.start + loop.beats),
  })

  const choose = (loop: Loop) => void (chosenId.value = loop.id)

  return {
    choose,
    beats,
    loops,
    suggested,
    chosen,
    chosenId,
    set,
    change,
    scale,
    move,
    again,
    accept,
    remove,
    spanOf,
  }
}

export type Loops = ReturnType<typeof useLoops>
