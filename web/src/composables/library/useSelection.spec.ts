import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { useSelection } from './useSelection'

const ids = ref(['a', 'b', 'c', 'd', 'e'])

describe('a selection', () => {
  it('is one row, several, or a range', () => {
    const s = useSelection(ids)
    s.choose('b')
    s.choose('d', { add: true })
    expect(s.list.value).toEqual(['b', 'd'])
    s.choose('d', { add: true })
    expect(s.list.value).toEqual(['b'])
    s.choose('b')
    s.choose('d', { range: true })
    expect(s.list.value).toEqual(['b', 'c', 'd'])
    s.choose('a', { range: true })
    expect(s.list.value).toEqual(['a', 'b'])
  })

  it('walks with the keys and stays in the list', () => {
    const s = useSelection(ids)
    expect(s.move(1)).toBe(0)
    expect(s.move(10)).toBe(4)
    s.move(-1, true)
    s.move(-1, true)
    expect(s.list.value).toEqual(['c', 'd', 'e'])
    s.all()
    expect(s.list.value).toHaveLength(5)
    s.none()
    expect(s.list.value).toEqual([])
  })
})
