import { useEventListener } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, type Ref } from 'vue'
import { onStruck } from '../../sound/controller'
import {
  areSomeChanged,
  changeKey,
  changePad,
  dropPad,
  namesNow,
  resetAllKeys,
  type KeyPlace,
} from './keyChanges'
import { midi, askForMidi } from './midi'
import { namesOf, type KeySet } from './useKeys'

/** An act whose key is to be another. */
interface Act extends KeyPlace {
  label: string
}

const NO_KEYS = ['Shift', 'Control', 'Alt', 'Meta', 'CapsLock', 'Tab', 'Dead', 'Unidentified', 'Process']

/** Give an act another key, or a pad: one says which act, and the next press is it, unless another act of the view has it. */
export function useKeyLearning(sets: Ref<KeySet[]>) {
  const at = shallowRef<Act>()
  /** The key that was pressed, where another act of this view has it. */
  const met = ref<{ place: Act; name: string; other: Act }>()

  const acts = computed<Act[]>(() =>
    sets.value.flatMap(({ title, bindings }) =>
      bindings.flatMap((b) => b.keys.map((key) => ({ title, key, label: b.label ?? key }))),
    ),
  )
  const holderOf = (name: string, but: Act) =>
    acts.value.find((a) => !isSame(a, but) && namesNow(a)[0] === name)

  function begin(place: Act) {
    met.value = undefined
    at.value = place
  }

  function leave() {
    at.value = met.value = undefined
  }

  /** The act that is learning has this key now, if no other has it. */
  function take(name: string) {
    const place = at.value!
    const other = holderOf(name, place)
    if (other) met.value = { place, name, other }
    else changeKey(place, name)
    at.value = undefined
  }

  /** As it came: the key, and no pad. */
  function reset() {
    dropPad(at.value!)
    take(at.value!.key)
  }

  function swap() {
    const { place, name, other } = met.value!
    const before = namesNow(place)[0]!
    changeKey(place, name)
    changeKey(other, before)
    leave()
  }

  useEventListener(
    window,
    'keydown',
    (event) => {
      if (!at.value || NO_KEYS.includes(event.key)) return
      event.preventDefault()
      event.stopImmediatePropagation()
      if (event.key === 'Escape') return leave()
      // With Ctrl and Alt the browser and the desktop have keys of their own.
      if (!event.ctrlKey && !event.altKey && !event.metaKey) take(namesOf(event)[0]!)
    },
    { capture: true },
  )
  onScopeDispose(
    onStruck((pad, isDown) => {
      if (!isDown || !at.value) return
      changePad(at.value, pad)
      leave()
    }),
  )

  return {
    at,
    met,
    midi,
    begin,
    leave,
    swap,
    reset,
    resetAll: resetAllKeys,
    areSomeChanged,
    askForMidi,
  }
}

const isSame = (a: KeyPlace, b: KeyPlace) => a.title === b.title && a.key === b.key
