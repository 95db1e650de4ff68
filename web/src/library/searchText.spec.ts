import { describe, expect, it } from 'vitest'
import { fieldOf, hasWord, rangeOf, rangeText, withField, withWord } from './searchText'

describe('the text of a search', () => {
  it('has fields that can be read and set, the rest left alone', () => {
    const text = 'glass bpm:118-122 tag:"late night" -voice'
    expect(fieldOf(text, 'bpm')).toBe('118-122')
    expect(fieldOf(text, 'tag')).toBe('late night')
    expect(fieldOf(text, 'key')).toBeUndefined()
    expect(withField(text, 'bpm', undefined)).toBe('glass tag:"late night" -voice')
    expect(withField(text, 'tag', 'dub')).toBe('glass bpm:118-122 -voice tag:dub')
    expect(withField('', 'list', 'Opening set')).toBe('list:"Opening set"')
  })

  it('has words that can be switched', () => {
    expect(hasWord('glass instrumental', 'instrumental')).toBe(true)
    expect(hasWord('instrumentals', 'instrumental')).toBe(false)
    expect(withWord('glass', 'checked', true)).toBe('glass checked')
    expect(withWord('checked glass', 'checked', false)).toBe('glass')
  })

  it('has ranges with one end or both', () => {
    expect(rangeOf('118-122')).toEqual({ low: 118, high: 122 })
    expect(rangeOf('-122')).toEqual({ low: undefined, high: 122 })
    expect(rangeOf('120')).toEqual({ low: 120, high: 120 })
    expect(rangeOf('fast')).toEqual({})
    expect(rangeText(118, undefined)).toBe('118-')
    expect(rangeText(undefined, undefined)).toBeUndefined()
  })
})
