import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Command, Curve, Entry, PlannedTransition } from '../../api/types'
import type { TransitionSide } from '../../composables/useSides'
import { useMix } from '../../stores/mix'
import { EntryClock } from '../../time/entryClock'
import PointFields from './PointFields.vue'
import TransitionPanel from './TransitionPanel.vue'

vi.mock('../../composables/useCourse', () => ({ useCourse: () => ({ data: { value: undefined } }) }))
vi.mock('../../composables/useTables', () => ({ useControls: () => ({ data: { value: undefined } }) }))

const curve = (...points: Curve) => points
const grid = { anchors: [{ time_s: 0.5, beat: 0 }], bpm_before: 120, bpm_after: 120, beats_per_bar: 4 }

function entry(index: number, title: string, bpm: number): Entry {
  return {
    id: `e${index + 1}`, index, title, count: 1, bar: 4, offset: 0, own_bpm: bpm, home_bpm: bpm, key_lock: true,
    gain_db: -1.5, gain_by_hand: index === 1, tempo: null,
  } as unknown as Entry // prettier-ignore
}
function side(index: number, title: string, bpm: number): TransitionSide {
  const riding = entry(index, title, bpm)
  return {
    entry: riding,
    clock: EntryClock.of(riding, { ...grid, bpm_after: bpm }),
    voice: [],
    cues: [],
    pencilled: [],
    catches: [],
  }
}
const outgoing = side(0, 'Moss', 120)
const incoming = side(1, 'Fern', 124)

function planned(kind: 'blend' | 'cut' = 'blend'): PlannedTransition {
  const side = { volume: curve([0, 1], [0.5, 0.5], [1, 0]) }
  return {
    index: 0,
    shaped: true,
    room: { out_from: 0, out_to: 400, in_from: 0, in_to: 300 },
    start_beat: 320,
    end_beat: kind === 'cut' ? 320 : 384,
    transition: {
      out_id: 'e1', in_id: 'e2', kind, tempo: 'ramp', out_at: 320, in_at: 4, beats: kind === 'cut' ? 0 : 64,
      outgoing: side, incoming: { ...side, volume: curve([0, 0], [1, 1]) },
    },
  } as unknown as PlannedTransition // prettier-ignore
}

let sent: Command[]
beforeEach(() => {
  setActivePinia(createPinia())
  sent = []
  const mix = useMix()
  mix.mix = {
    id: 'm',
    version: 1,
    plan: { entries: [outgoing.entry, incoming.entry], tempo: [[320, 120], [384, 124]], origin_beat: 0, snags: [{ kind: 'tempo_leap', message: 'It is bent.', transition: 0 }] },
  } as never // prettier-ignore
  vi.spyOn(mix, 'send').mockImplementation((command) => {
    sent.push(command)
    return Promise.resolve(true)
  })
})

function panel(kind: 'blend' | 'cut' = 'blend') {
  const t = planned(kind)
  const place = { outAt: t.transition.out_at, inAt: t.transition.in_at, beats: t.transition.beats }
  return mount(TransitionPanel, {
    props: { planned: t, outgoing, incoming, place },
    attachTo: document.body,
  })
}

async function type(
  input: { setValue: (v: string) => Promise<void>; trigger: (e: string) => Promise<void> },
  value: string,
) {
  await input.setValue(value)
  await input.trigger('blur')
  await flushPromises()
}

describe('the numbers of a transition', () => {
  it('are bars as people count them, with the time in the track', () => {
    const text = panel()
    expect((text.get('#out-bar').element as HTMLInputElement).value).toBe('81')
    expect((text.get('#in-bar').element as HTMLInputElement).value).toBe('2')
    expect((text.get('#length-bars').element as HTMLInputElement).value).toBe('16')
    expect(text.text()).toContain('2:40.5')
    expect(text.text()).toContain('120 → 124 BPM')
    expect(text.text()).toContain('It is bent.')
  })

  it('become commands in beats', async () => {
    const wrapper = panel()
    await type(wrapper.get('#out-bar'), '77')
    await type(wrapper.get('#in-bar'), '1')
    await type(wrapper.get('#length-bars'), '8.25')
    const pair = { kind: 'place_transition', out_id: 'e1', in_id: 'e2' }
    expect(sent).toEqual([
      { ...pair, out_at: 304 },
      { ...pair, in_at: 0 },
      { ...pair, beats: 33 },
    ])
  })

  it('tell how far each side is bent, and at a cut that neither is', () => {
    expect(panel().text()).toContain('speed 0 % to +3.3 %')
    const cut = panel('cut').text()
    expect(cut).toContain('no overlap')
    expect(cut).toContain('speed 0 %')
  })

  it('offer hand-overs, level and key lock of both sides, and a fresh start', async () => {
    const wrapper = panel()
    const press = (label: string) =>
      wrapper
        .findAll('button')
        .find((b) => b.text() === label)!
        .trigger('click')
    await press('Clean cut')
    await press('match level')
    await press('As if untouched')
    await wrapper.get('[aria-label="Incoming key lock"]').trigger('click')
    await type(wrapper.get('[aria-label="Outgoing gain in dB"]'), '-3')
    expect(sent).toEqual([
      { kind: 'apply_hand_over', out_id: 'e1', in_id: 'e2', hand_over: 'clean_cut' },
      { kind: 'set_gain', entry_id: 'e2', gain_db: null },
      { kind: 'reset_transition', out_id: 'e1', in_id: 'e2' },
      { kind: 'set_key_lock', entry_id: 'e2', key_lock: false },
      { kind: 'set_gain', entry_id: 'e1', gain_db: -3 },
    ])
  })
})

describe('the numbers of a point', () => {
  const fields = (index: number) =>
    mount(PointFields, {
      props: {
        transition: planned().transition,
        point: { side: 'outgoing', control: 'volume', index },
        bar: 4,
      },
      attachTo: document.body,
    })

  it('are bars into the overlap and decibels', async () => {
    const wrapper = fields(1)
    expect((wrapper.get('#point-at').element as HTMLInputElement).value).toBe('8')
    expect((wrapper.get('#point-db').element as HTMLInputElement).value).toBe('-3')
    await type(wrapper.get('#point-at'), '4')
    await type(wrapper.get('#point-db'), '-60')
    expect(sent.map((c) => ('curve' in c ? c.curve[1] : null))).toEqual([
      [0.25, 0.5],
      [0.5, 0],
    ])
  })

  it('leave alone what is given at the edges', () => {
    expect(fields(0).text()).toContain('0 dB, fixed')
    expect(fields(2).text()).toContain('at the end')
    expect(fields(2).find('#point-at').exists()).toBe(false)
  })

  it('take the point out', async () => {
    await fields(1).get('.remove').trigger('click')
    expect(sent[0]).toMatchObject({ kind: 'set_curve', side: 'outgoing', control: 'volume' })
    expect((sent[0] as { curve: unknown[] }).curve).toHaveLength(2)
  })
})
