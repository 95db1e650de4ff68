import { useTimeoutFn } from '@vueuse/core'
import { ref } from 'vue'
import { useMarkup } from '../../stores/markup'

/** So long after the last tap the grid is made of them. */
const PAUSE_MS = 2500
const LEAST = 4

/** A grid tapped along: `heard` is the moment of the track that is heard, `play` begins where none is. */
export function useTapping(heard: () => number | undefined, play: () => void) {
  const markup = useMarkup()
  const taps = ref<number[]>([])
  const pause = useTimeoutFn(
    () => {
      if (taps.value.length >= LEAST) void markup.tap(taps.value)
      taps.value = []
    },
    PAUSE_MS,
    { immediate: false },
  )

  function tap() {
    const at = heard()
    if (at === undefined) return play()
    taps.value = [...taps.value, at]
    pause.start()
  }

  function forget() {
    pause.stop()
    taps.value = []
  }

  return { taps, tap, forget }
}
