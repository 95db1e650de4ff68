import { useLocalStorage } from '@vueuse/core'

/** What the user has set for an act: another key in place of the one that it comes with, a pad of a MIDI controller beside it. */
interface KeyChange {
  key?: string
  pad?: number
}

/** An act, known by where it holds and by the key that it comes with. */
export interface KeyPlace {
  title: string
  key: string
}

const changes = useLocalStorage<Record<string, KeyChange>>('fernbrook.keyChanges', {})

const idOf = ({ title, key }: KeyPlace) => `${title}/${key}`

export const padName = (pad: number) => `pad ${pad}`

/** All that does it now: the key first, then the pad where there is one. */
export function namesNow(place: KeyPlace): string[] {
  const change = changes.value[idOf(place)]
  const pad = change?.pad === undefined ? [] : [padName(change.pad)]
  return [change?.key ?? place.key, ...pad]
}

export const isChanged = (place: KeyPlace) => idOf(place) in changes.value
export const areSomeChanged = () => Object.keys(changes.value).length > 0
export const hasPads = () => Object.values(changes.value).some((c) => c.pad !== undefined)

export function changeKey(place: KeyPlace, key: string) {
  put(place, { ...changes.value[idOf(place)], key: key === place.key ? undefined : key })
}

/** A pad does one thing: whatever it did before, it does this now. */
export function changePad(place: KeyPlace, pad: number) {
  for (const [id, change] of Object.entries(changes.value))
    if (change.pad === pad) changes.value[id] = { ...change, pad: undefined }
  put(place, { ...changes.value[idOf(place)], pad })
}

export const dropPad = (place: KeyPlace) => put(place, { ...changes.value[idOf(place)], pad: undefined })
export const resetAllKeys = () => void (changes.value = {})

function put(place: KeyPlace, change: KeyChange) {
  const all = { ...changes.value, [idOf(place)]: change }
  changes.value = Object.fromEntries(
    Object.entries(all).filter(([, c]) => c.key !== undefined || c.pad !== undefined),
  )
}

const SIGNS: Record<string, string> = {
  ' ': 'Space',
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
  '-': '−',
}

/** What is written on a key, with what is held beside it. */
export function keyName(name: string): string {
  if (SIGNS[name]) return SIGNS[name]
  const [, held, rest] = /^(ctrl|shift)\+(?:arrow)?(.+)$/.exec(name) ?? []
  if (held && rest) return `${held === 'ctrl' ? 'Ctrl' : 'Shift'} ${ARROWS[rest] ?? rest.toUpperCase()}`
  if (name.startsWith('pad ')) return `Pad ${name.slice(4)}`
  if (name.length > 1) return name
  return name !== name.toLowerCase() ? `Shift ${name}` : name.toUpperCase()
}

const ARROWS: Record<string, string> = { up: '↑', down: '↓', left: '←', right: '→' }
