import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { MarkFacet, StickPlan as Plan, StickRead } from '../../api/types'
import StickChanges from './StickChanges.vue'
import StickPlan from './StickPlan.vue'

const file = (title: string, action: string, reason = '') => ({ track_id: title, title, artist: '', file: '', action, reason, bytes: 1 }) // prettier-ignore
const plan = {
  player: 'The one in the booth',
  kinds: ['wav', 'mp3'],
  files: [
    file('Moss', 'copy'),
    file('Fern', 'convert', 'the player does not take OGG: it becomes WAV'),
    file('Fig', 'keep'),
  ],
  lists: ['Night'],
  gone: 2,
  needs: 5_000_000,
  free: 20_000_000,
  problem: '',
} as unknown as Plan

describe('what filling a stick takes', () => {
  it('is counted, with its room and why something is converted', () => {
    const text = mount(StickPlan, { props: { plan } }).text()
    for (const said of [
      '‘The one in the booth’ plays WAV, MP3',
      '5.0 MB to write, 20.0 MB free',
      'Why one is converted',
      'does not take OGG',
    ])
      // prettier-ignore
      expect(text).toContain(said)
    const counts = mount(StickPlan, { props: { plan } })
      .findAll('dt, dd')
      .map((x) => x.text())
    expect(counts).toEqual(['1', 'copied', '1', 'converted', '1', 'there already', '2', 'taken off'])
  })

  it('says what is in its way, and nothing of what is not', () => {
    const full = {
      ...plan,
      problem: 'It takes 5 MB, and 1 MB are free.',
      files: [file('Moss', 'copy')],
      gone: 0,
    }
    const wrapper = mount(StickPlan, { props: { plan: full as unknown as Plan } })
    expect(wrapper.get('[role=alert]').text()).toContain('1 MB are free')
    expect(wrapper.find('details').exists()).toBe(false)
    expect(wrapper.findAll('dd').map((x) => x.text())).toEqual(['copied'])
  })
})

describe('what came back on a stick', () => {
  const cues = { facet: 'cues' as MarkFacet, here: ['0:01 a'], there: ['0:02 a'], differs: true }
  const changed = (id: string) => ({ track_id: id, title: id, artist: '', parts: [cues] })
  const came = (more: Partial<StickRead> = {}): StickRead => ({
    exported_at: '2026-11-27T10:00:00Z',
    changed: [],
    played: [],
    notes: [],
    ...more,
  })

  function changes(read: StickRead) {
    const taken: [string, MarkFacet[]][] = []
    const onTake = (track: string, facets: MarkFacet[]) => taken.push([track, facets])
    return { wrapper: mount(StickChanges, { props: { came: read, onTake } }), taken }
  }

  it('is nothing on an empty stick, or on one that was not changed', () => {
    expect(changes(came({ exported_at: null })).wrapper.text()).toContain('Nothing was put on it yet')
    expect(changes(came()).wrapper.text()).toContain('Nothing was marked otherwise')
  })

  it('is taken one by one, as it is ticked, or all at once', async () => {
    const { wrapper, taken } = changes(came({ changed: [changed('moss'), changed('fern')] }))
    const press = (text: string, n = 0) =>
      wrapper
        .findAll('button')
        .filter((b) => b.text() === text)
        [n]!.trigger('click')
    await press('Take selected', 1)
    expect(taken).toEqual([['fern', ['cues']]])
    await wrapper.find('input').setValue(false)
    await press('Take selected')
    expect(taken).toHaveLength(1)
    await press('Skip', 1)
    expect(wrapper.emitted('leave')).toEqual([['fern']])
    await press('Take all changes')
    expect(taken.slice(1)).toEqual([['moss', ['cues']], ['fern', ['cues']]]) // prettier-ignore
  })

  it('says what was played, and makes a list of it', async () => {
    const played = [{ track_id: 't', name: 'Ines – Fern', at: '2026-11-27T23:10:00Z', seconds: 201 }]
    const { wrapper } = changes(came({ played }))
    expect(wrapper.text()).toContain('Ines – Fern')
    expect(wrapper.text()).toContain('3:21')
    await wrapper.findAll('button').at(-1)!.trigger('click')
    expect(wrapper.emitted('played')).toHaveLength(1)
  })
})
