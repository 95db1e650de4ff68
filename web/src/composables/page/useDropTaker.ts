import { createGlobalState, tryOnScopeDispose } from '@vueuse/core'
import { shallowRef } from 'vue'

/** Where files that are dropped on the page go beside the library, by where they are let go. */
export interface DropTaker {
  /** What the page says while they are held over it. */
  words: () => string | undefined
  /** What becomes of the tracks that were dropped there, if anything does. */
  at: (event: DragEvent) => ((tracks: string[]) => unknown) | undefined
}

const useTaker = createGlobalState(() => shallowRef<DropTaker>())

/** Take the files that are dropped while this is shown. */
export function takeDrops(taker: DropTaker) {
  const now = useTaker()
  now.value = taker
  tryOnScopeDispose(() => {
    if (now.value === taker) now.value = undefined
  })
}

/** Who takes them now. */
export const useDropTaker = () => useTaker()
