import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed } from 'vue'
import { useMix } from './mix'
import { entryBeatOf, mixBeatOf } from '../time/entryClock'

/** More mixes, and more marks of one, are not remembered. */
const MOST_MIXES = 40
const MOST_MARKS = 100

/** A place in a mix to come back to: a beat of one of its entries, so that it stays there when the mix is changed. */
export interface Mark {
  entryId: string
  beat: number
}

/** ‘Come back here’: places that were marked while listening to a mix. They stay in the browser. */
export const useMarks = defineStore('marks', () => {
  const mix = useMix()
  const kept = useLocalStorage<Record<string, Mark[]>>('fernbrook.marks', {})

  /** The marks of the open mix that still lie in it, with their moments, in the order of the mix. */
  const marks = computed(() => {
    const plan = mix.plan
    if (!mix.mix || !plan) return []
    return (kept.value[mix.mix.id] ?? [])
      .flatMap((mark) => {
        const entry = plan.entries.find((e) => e.id === mark.entryId)
        const clock = entry && mix.clocks[entry.clock]
        return clock ? [{ mark, seconds: clock.timeAt(mixBeatOf(entry, mark.beat)) }] : []
      })
      .sort((a, b) => a.seconds - b.seconds)
  })

  function keep(some: Mark[]) {
    const id = mix.mix!.id
    const others = Object.entries(kept.value).filter(([other]) => other !== id)
    kept.value = Object.fromEntries([...others.slice(1 - MOST_MIXES), [id, some.slice(-MOST_MARKS)]])
  }

  /** Mark a moment of the open mix. */
  function add(seconds: number) {
    const entry = mix.plan?.entries.find((e) => e.start_s <= seconds && seconds < e.end_s)
    const clock = entry && mix.clocks[entry.clock]
    if (!mix.mix || !clock) return
    const beat = Math.round(entryBeatOf(entry, clock.beatAt(seconds)) * 100) / 100
    keep([...(kept.value[mix.mix.id] ?? []), { entryId: entry.id, beat }])
  }

  function remove(mark: Mark) {
    if (mix.mix) keep((kept.value[mix.mix.id] ?? []).filter((m) => m !== mark))
  }

  return { marks, add, remove }
})
