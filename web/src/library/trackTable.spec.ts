import { describe, expect, it } from 'vitest'
import type { TrackTable } from '../api/types'
import { bucketFor } from '../pictures/trackPictures'
import { matching, rowsOf } from './trackTable'

const table = {
  id: ['a', 'b', 'c'],
  title: ['Fougère', 'Moss 10', 'moss 9'],
  artist: ['Someone', 'Someone', 'Élan'],
  file_name: ['1.wav', '2.wav', '3.wav'],
  bpm: [120, null, 98],
  key: [null, 'C#m', null],
  key_wheel: [null, '12A', null],
  analyses: { b: { id: 'j', state: 'running', progress: 0.5, error: null } },
} as unknown as TrackTable
// What this table says nothing of is not asked for here.
const tracks = rowsOf(new Proxy(table, { get: (t, name: keyof TrackTable) => t[name] ?? [] }) as TrackTable)

describe('the table of tracks', () => {
  it('finds words in any order, without accents or case', () => {
    expect(matching(tracks, 'FOUGERE').map((t) => t.title)).toEqual(['Fougère'])
    expect(matching(tracks, 'elan moss').map((t) => t.title)).toEqual(['moss 9'])
    expect(matching(tracks, '  ')).toHaveLength(3)
  })

  it('is made of columns, and knows which analyses have not ended', () => {
    expect(tracks.map((t) => t.id)).toEqual(['a', 'b', 'c'])
    expect(tracks.map((t) => t.analysis?.progress)).toEqual([undefined, 0.5, undefined])
    expect(matching(tracks, '12a').map((t) => t.title)).toEqual(['Moss 10'])
  })
})

it('waveforms are drawn from the coarsest peaks that are fine enough', () => {
  expect([0.0001, 0.01, 0.1, 9].map(bucketFor)).toEqual([64, 256, 4096, 16384])
})
