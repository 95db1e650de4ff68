import { useSessionStorage } from '@vueuse/core'
import { watch, type Ref } from 'vue'

interface Place {
  /** Of the entry and of the transition that one looks at, counted from 1 as addresses do. */
  entry: number
  transition: number
}

const START: Place = { entry: 1, transition: 1 }
const places = useSessionStorage<Record<string, Place>>('fernbrook.places', {})

/** Where one was last in a mix: who goes to another view and back finds it again. */
export function placeIn(mixId: string): Place {
  return places.value[mixId] ?? START
}

/** Note where one is: at a transition one is at its outgoing entry, at an entry at the transition that it leaves by. */
export function useMixPlace(mixId: Ref<string | undefined>, index: Ref<number>) {
  watch(
    [mixId, index],
    ([id, at]) => {
      if (id) places.value = { ...places.value, [id]: { entry: at + 1, transition: at + 1 } }
    },
    { immediate: true },
  )
}
