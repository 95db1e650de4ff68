import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, watch } from 'vue'
import type { Plan } from '../api/types'
import { useMix } from './mix'

/** More mixes than this are not remembered. */
const MOST_MIXES = 40

const pairs = (plan: Plan) => plan.transitions.map((t) => `${t.transition.out_id} ${t.transition.in_id}`)

/**
 * Transitions that the program has made again because an order was changed, until somebody has looked at them. Those
 * that were shaped for the same two before are not among them: they come back as they were.
 */
export const useFresh = defineStore('fresh', () => {
  const mix = useMix()
  const kept = useLocalStorage<Record<string, string[]>>('fernbrook.fresh', {})

  /** The places of new transitions, in order. */
  const places = computed(() => {
    const marked = new Set(mix.mix ? kept.value[mix.mix.id] : [])
    if (!mix.plan || !marked.size) return []
    return pairs(mix.plan).flatMap((pair, place) => (marked.has(pair) ? [place] : []))
  })

  watch(
    () => mix.mix,
    (now, before) => {
      if (!now || !before || now.id !== before.id || before.plan.entries.length < 2) return
      const known = new Set(pairs(before.plan))
      const shaped = new Set(pairs(now.plan).filter((_, i) => now.plan.transitions[i]!.shaped))
      const made = pairs(now.plan).filter((pair) => !known.has(pair) && !shaped.has(pair))
      const still = (kept.value[now.id] ?? []).filter((pair) => known.has(pair) && !shaped.has(pair))
      if (made.length || still.length !== (kept.value[now.id] ?? []).length) keep(now.id, [...still, ...made])
    },
  )

  function keep(id: string, some: string[]) {
    const others = Object.entries(kept.value).filter(([other]) => other !== id)
    kept.value = Object.fromEntries(
      [...others, [id, [...new Set(some)]]].slice(-MOST_MIXES) as [string, string[]][],
    )
  }

  /** Somebody has looked at a transition; without a place at all of them. */
  function seen(place?: number) {
    if (!mix.mix || !mix.plan) return
    const here = pairs(mix.plan)
    keep(
      mix.mix.id,
      place === undefined ? [] : (kept.value[mix.mix.id] ?? []).filter((p) => p !== here[place]),
    )
  }

  return { places, seen }
})
