import { describe, expect, it } from 'vitest'
import { doubtfulPlaces, typicalOffset } from './doubtfulPlaces'

function offsets(at: Record<number, number>, silent: number[] = []) {
  const late_ms = Array.from({ length: 100 }, (_, i) => at[i] ?? 0.5)
  return { first: -4, late_ms, clear: late_ms.map((_, i) => (silent.includes(i) ? 0 : 0.9)) }
}

describe('the places worth a look', () => {
  it('are the worst offsets, early or late, the worst first', () => {
    const found = doubtfulPlaces(offsets({ 10: 6, 40: -14, 80: 9 }))
    expect(found.map((p) => p.beat)).toEqual([36, 76, 6])
    expect(found[0]!.late).toBe(-14)
  })

  it('do not crowd: one stands for its neighbours', () => {
    const found = doubtfulPlaces(offsets({ 40: 8, 41: 9, 42: 10, 43: 9, 60: 5 }))
    expect(found.map((p) => p.beat)).toEqual([38, 56])
  })

  it('are none where all is fine or nothing is heard', () => {
    expect(doubtfulPlaces(offsets({}))).toEqual([])
    expect(doubtfulPlaces(offsets({ 40: 30 }, [40]))).toEqual([])
  })

  it('leave a figure for the whole track: the middle of all that is heard', () => {
    expect(typicalOffset(offsets({ 3: 50 }))).toBe(0.5)
    expect(typicalOffset({ first: 0, late_ms: [4, -6, 5], clear: [1, 1, 1] })).toBe(5)
    expect(typicalOffset({ first: 0, late_ms: [4], clear: [0] })).toBeUndefined()
  })
})
