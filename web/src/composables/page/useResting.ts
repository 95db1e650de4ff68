import { tryOnScopeDispose, useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { Gesture } from '../../stores/gesture'
import { noteWaiting } from '../../stores/resting'

/** So long after the last of several presses they are sent, as one. */
const RESTED_MS = 200

/**
 * A value that is changed by several presses in a row, of a key, a wheel or a small button. Each press counts from what
 * is shown; it is shown at once and sent when it rests. Nothing is dropped: what is pressed while a change is on its way
 * is sent after it, and what one goes away from is sent first. All of it is one step to undo.
 */
export function useResting<T>() {
  const draft = shallowRef<T>()
  const underWay = ref(0)
  const gesture = new Gesture()
  let send: (() => Promise<boolean>) | undefined
  let forget: (() => void) | undefined

  async function flush(): Promise<void> {
    forget?.()
    const [now, sent] = [send, draft.value]
    send = undefined
    if (!now) return
    underWay.value++
    try {
      await gesture.send(now)
    } finally {
      underWay.value--
    }
    if (draft.value === sent && !send) draft.value = undefined
  }
  const rest = useDebounceFn(flush, RESTED_MS)

  /** Show a value, and send it so when no other follows. */
  function put(value: T, how: () => Promise<boolean>) {
    gesture.press()
    draft.value = value
    send = how
    forget?.()
    forget = noteWaiting(flush)
    void rest()
  }

  /** Send what is shown, and show what is stored: something else is looked at now. */
  function leave() {
    const gone = flush()
    gesture.end()
    draft.value = undefined
    return gone
  }

  tryOnScopeDispose(() => void flush())
  return {
    /** What was pressed and has not come back yet. */
    draft,
    /** Whether a change of it is on its way. */
    isUnderWay: computed(() => underWay.value > 0),
    put,
    flush,
    leave,
  }
}
