import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch, type Ref } from 'vue'

/** From so many seconds on, what was done tells how fast it goes. */
const TELLING_S = 8
/** How fast it goes now is told by the last so many seconds: other work may have begun beside it. */
const LOOKED_AT_S = 60
const LOOK_MS = 2000

/**
 * In how many seconds work will be done, by how fast it went lately, whatever runs beside it; undefined until that can
 * be told. `left` is how much there is still to do, in any measure.
 */
export function useTimeLeft(left: Ref<number>) {
  const seen = ref<{ at: number; left: number }[]>([])

  function look() {
    const last = seen.value[seen.value.length - 1]
    // What is added makes it longer and says nothing of how fast it goes.
    if (!left.value || (last && left.value > last.left + 1e-6)) seen.value = []
    if (!left.value) return
    const at = performance.now() / 1000
    seen.value = [...seen.value.filter((s) => at - s.at <= LOOKED_AT_S), { at, left: left.value }]
  }
  useIntervalFn(look, LOOK_MS)
  watch(left, look, { immediate: true })

  return computed(() => {
    const [first, last] = [seen.value[0], seen.value[seen.value.length - 1]]
    if (!first || !last || last.at - first.at < TELLING_S || first.left - last.left <= 0) return undefined
    return (last.left * (last.at - first.at)) / (first.left - last.left)
  })
}
