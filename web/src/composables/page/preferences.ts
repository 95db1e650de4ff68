import { useStorage } from '@vueuse/core'
import { computed } from 'vue'
import type { Track } from '../../api/types'
import type { Range } from '../../stores/markup'

/** Ranges of tempi that a beat may be looked for in. */
export const RANGES = [
  { value: '60-200', label: '60–200 BPM' },
  { value: '70-140', label: '70–140 BPM' },
  { value: '85-170', label: '85–170 BPM' },
  { value: '100-200', label: '100–200 BPM' },
]
export const NOTATIONS = [
  { value: 'music', label: 'Cm' },
  { value: 'wheel', label: '5A' },
]

/** The range of tempi for imports and for measuring again, as the user last chose it. */
export function useTempoRange() {
  const chosen = useStorage('fernbrook.tempoRange', RANGES[0]!.value)
  const range = computed<Range>(() => {
    const [low, high] = chosen.value.split('-').map(Number)
    return { low: low!, high: high! }
  })
  return { chosen, range }
}

/** How keys are written: as musicians do, or as numbers and letters on the circle of fifths. */
export function useKeyNotation() {
  const notation = useStorage<'music' | 'wheel'>('fernbrook.keys', 'music')
  const keyOf = (track: Pick<Track, 'key' | 'key_wheel'>) =>
    (notation.value === 'wheel' ? track.key_wheel : track.key) ?? '–'
  return { notation, keyOf }
}

/** How far from its own tempo a track plays comfortably, in percent. */
export function useComfort() {
  return useStorage('fernbrook-comfort', 8)
}
