import { expect, it } from 'vitest'
import { BarLines } from './barLines'
import {
  barBeat,
  barsLong,
  bpm,
  clockTenths,
  clockTime,
  decibels,
  megabytes,
  percent,
  tempoOf,
} from './format'

it('numbers are written as musicians and engineers write them', () => {
  expect([0, 61.9, 3723].map(clockTime)).toEqual(['0:00', '1:01', '1:02:03'])
  expect(clockTenths(59.96)).toBe('0:59.9')
  expect([0, 5, -1, 4.5].map((b) => barBeat(b, BarLines.every(4)))).toEqual(['1.1', '2.2', '0.4', '2.1.50'])
  expect([64, 4, 10, 0.5].map((b) => barsLong(b, 4))).toEqual([
    '16 bars',
    '1 bar',
    '2 bars 2 beats',
    '0.5 beats',
  ])
  expect([120, 118.2416].map(bpm)).toEqual(['120', '118.24'])
  const tempi = { bpm: 151.2, comes_bpm: 136, leaves_bpm: 174.01 }
  expect(tempoOf(tempi)).toBe('136 → 174')
  expect(tempoOf({ ...tempi, comes_bpm: null, leaves_bpm: null })).toBe('151.2')
  expect(tempoOf({ bpm: null, comes_bpm: null, leaves_bpm: null })).toBe('')
  expect([0, 3, -1.25].map(decibels)).toEqual(['±0.0 dB', '+3.0 dB', '−1.2 dB'])
  expect([0, 0.021, -0.0196].map(percent)).toEqual(['0 %', '+2.1 %', '−2.0 %'])
  expect([900, 5_300_000, 503_000_000, 39_300_000_000].map(megabytes)).toEqual([
    '1 kB',
    '5.3 MB',
    '503 MB',
    '39.3 GB',
  ])
})
