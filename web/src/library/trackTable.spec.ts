import { describe, expect, it } from 'vitest'
import type { Track } from '../api/types'
import { bucketFor } from '../composables/usePeaks'
import { matching, sorted } from './trackTable'

const track = (title: string, bpm: number | null, artist = 'Someone') =>
  ({ title, artist, bpm, file_name: `${title}.wav`, key: null }) as Track

const tracks = [track('Fougère', 120), track('Moss 10', null), track('moss 9', 98, 'Élan')]

describe('the table of tracks', () => {
  it('finds words in any order, without accents or case', () => {
    expect(matching(tracks, 'FOUGERE').map((t) => t.title)).toEqual(['Fougère'])
    expect(matching(tracks, 'elan moss').map((t) => t.title)).toEqual(['moss 9'])
    expect(matching(tracks, '  ')).toHaveLength(3)
  })

  it('sorts numbers as numbers, names as people do, and unknowns last', () => {
    expect(sorted(tracks, 'bpm', true).map((t) => t.bpm)).toEqual([98, 120, null])
    expect(sorted(tracks, 'bpm', false).map((t) => t.bpm)).toEqual([120, 98, null])
    expect(sorted(tracks, 'title', true).map((t) => t.title)).toEqual(['Fougère', 'moss 9', 'Moss 10'])
  })
})

it('waveforms are drawn from the coarsest peaks that are fine enough', () => {
  expect([0.0001, 0.01, 0.1, 9].map(bucketFor)).toEqual([64, 256, 4096, 16384])
})
