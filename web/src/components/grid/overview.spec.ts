import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { OpenTrack, Section, Track, VoiceSpan } from '../../api/types'
import { useKeyNotation } from '../../composables/page/preferences'
import { BeatGrid } from '../../time/grid'
import { settleAll } from '../../stores/resting'
import SectionsRow from './SectionsRow.vue'
import TrackFacts from './TrackFacts.vue'
import VoiceRow from './VoiceRow.vue'

const beats = new BeatGrid({
  anchors: [{ time_s: 0, beat: 0, ramp: 1 }],
  bpm_before: 120,
  bpm_after: 120,
  beats_per_bar: 4,
  bars_from: [],
})
const at = { beats, duration: 100, cursor: 18 }

describe('the row of sections', () => {
  const sections: Section[] = [
    { kind: 'beat', start: 0, end: 32, name: '' },
    { kind: 'full', start: 32, end: 160, name: 'Chorus' },
    { kind: 'beat', start: 160, end: 200, name: '' },
  ]
  const change = vi.fn<(sections: Section[], why: string) => Promise<boolean>>()
  const row = () => mount(SectionsRow, { props: { ...at, sections, change }, attachTo: document.body })

  it('shows each where it sounds, by its name or by what is heard', () => {
    const items = row().findAll('button.block')
    expect(items.map((i) => i.text())).toEqual(['Beat only', 'Chorus', 'Beat only'])
    expect(items[1]!.attributes('style')).toContain('left: 16%')
    expect(items[1]!.attributes('title')).toBe('Chorus: bar 9 on, 32 bars')
  })

  it('moves a border by a bar with each press of an arrow, and keeps them as one', async () => {
    const border = row().findAll('[role=slider]')[0]!
    for (let press = 0; press < 3; press++) await border.trigger('keydown', { key: 'Left' })
    expect(border.attributes('aria-valuenow')).toBe('20')
    expect(change).not.toHaveBeenCalled()
    await settleAll()
    const [[changed, why]] = change.mock.calls as [[Section[], string]]
    expect(changed.slice(0, 2).map((s) => [s.start, s.end])).toEqual([[0, 20], [20, 160]]) // prettier-ignore
    expect(why).toBe('move a section border')
  })
})

describe('the row of voices', () => {
  const spans: VoiceSpan[] = [
    { start: 40, end: 48 },
    { start: 60, end: 72 },
  ]
  const change = vi.fn<(spans: VoiceSpan[], why: string) => Promise<boolean>>()
  const row = (given = spans) =>
    mount(VoiceRow, { props: { ...at, spans: given, change }, attachTo: document.body })
  beforeEach(() => void change.mockClear())

  it('says where there is none how to mark one, and marks a bar at the cursor', async () => {
    const wrapper = row([])
    expect(wrapper.text()).toContain('No voice heard')
    await wrapper.find('.here').trigger('click')
    expect(change.mock.calls[0]).toEqual([[{ start: 36, end: 40 }], 'mark a voice'])
  })

  it('names each span by its bars, moves its edges by a beat, and takes it away by a key', async () => {
    const wrapper = row()
    const pills = wrapper.findAll('.pill')
    expect(pills[1]!.attributes('aria-label')).toBe('Voice from 16.1 to 19.1')
    const edge = wrapper.findAll('[role=slider]')[1]!
    for (let press = 0; press < 4; press++) await edge.trigger('keydown', { key: 'Right' })
    await settleAll()
    await pills[0]!.trigger('keydown', { key: 'Delete' })
    const [moved, removed] = change.mock.calls.map(([changed]) => changed)
    expect(moved![0]).toEqual({ start: 40, end: 52 })
    expect(removed).toEqual([spans[1]])
  })

  it('opens what can be done to a span with Enter', async () => {
    const wrapper = row()
    await wrapper.find('.pill').trigger('keydown', { key: 'Enter' })
    await flushPromises()
    expect(document.body.textContent).toContain('Join with the next')
  })
})

describe('what the analysis found', () => {
  const track = {
    key: 'Am', key_wheel: '8A', duration_s: 200, loudness_lufs: -9.26, true_peak_dbtp: 0.3, format: 'WAV',
    rate: 48_000, channels: 1,
  } as unknown as Track // prettier-ignore
  const found = {
    second_key: 'C', second_key_wheel: '8B', key_confidence: 0.62, tuning_cents: -11.8, runner_up_bpm: 64, swing: 2.04,
    short_term_max_lufs: -6.1, suggested_gain_db: -4.7,
  } as unknown as OpenTrack // prettier-ignore

  beforeEach(() => (useKeyNotation().notation.value = 'music'))

  async function told(changes: { track?: object; found?: object } = {}) {
    document.body.innerHTML = ''
    const props = { track: { ...track, ...changes.track }, found: { ...found, ...changes.found } }
    const wrapper = mount(TrackFacts, { props, attachTo: document.body })
    await wrapper.find('button').trigger('click')
    await flushPromises()
    return { short: wrapper.find('button').text(), long: document.querySelector('dl')!.textContent! }
  }

  it('is short at first, and all of it on demand', async () => {
    const { short, long } = await told()
    expect(short).toBe('· Am · 3:20')
    for (const words of ['Am (62 % sure), else C', '−12 cents', '64 BPM', 'swung 2.0 : 1', '−9.3 LUFS', '0.3 dBTP', '−4.7 dB', 'WAV, 48 kHz, mono'])
      expect(long).toContain(words) // prettier-ignore
  })

  it('writes keys as the user chose', async () => {
    useKeyNotation().notation.value = 'wheel'
    expect((await told()).long).toContain('8A (62 % sure), else 8B')
  })

  it('has a word for what is not known', async () => {
    const { long } = await told({
      track: { key: null, loudness_lufs: null },
      found: { second_key: null, key_confidence: null, tuning_cents: null, runner_up_bpm: null, swing: null },
    })
    expect(long).toContain('no pitch heard')
    expect(long).toContain('none')
  })
})
