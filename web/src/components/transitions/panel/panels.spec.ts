import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import type { Command, Curve, Entry, Kind, PlannedTransition } from '../../../api/types'
import type { TransitionSide } from '../../../time/transitionSide'
import { useMix } from '../../../stores/mix'
import { useCurveEditing } from '../../../composables/transition/useCurveEditing'
import { provideTransition } from '../../../composables/transition/useTransition'
import { point } from '../../../time/curve'
import { EntryClock } from '../../../time/entryClock'
import PointFields from './PointFields.vue'
import TransitionPanel from './TransitionPanel.vue'

vi.mock('../../../composables/mix/useCourse', () => ({ useCourse: () => ({ data: { value: undefined } }) }))
vi.mock('../../../composables/page/useTables', () => ({
  useControls: () => ({ data: { value: [{ control: 'volume', law: 'fader', neutral: 1 }] } }),
}))
const READY = [{ shape: 'clean_cut', label: 'Clean cut', about: 'A switch on the beat' }]
const saved: string[] = []
vi.mock('../../../composables/transition/useShapes', () => ({
  useShapes: () => ({
    shapes: { value: { ready: READY, saved: [] } },
    save: (name: string) => Promise.resolve(saved.push(name)),
  }),
}))

vi.mock('../../../composables/transition/useProposals', () => ({
  useProposals: () => ({ proposals: { value: undefined } }),
}))

const curve = (...points: [number, number][]): Curve => points.map(([at, value]) => point(at, value))
const grid = {
  anchors: [{ time_s: 0.5, beat: 0, ramp: 1 }],
  bpm_before: 120,
  bpm_after: 120,
  beats_per_bar: 4,
  bars_from: [],
}

function entry(index: number, title: string, bpm: number): Entry {
  return {
    id: `e${index + 1}`, index, title, count: 1, bar: 4, offset: 0, clock: 0, own_bpm: bpm, home_bpm: bpm, key_lock: true,
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
    suggested: [],
    catches: [],
  }
}
const outgoing = side(0, 'Moss', 120)
const incoming = side(1, 'Fern', 124)

function planned(kind: Kind = 'blend', more: object = {}): PlannedTransition {
  const side = { volume: curve([0, 1], [0.5, 0.5], [1, 0]) }
  return {
    index: 0,
    shaped: true,
    room: { out_from: 0, out_to: 400, in_from: 0, in_to: 300 },
    start_beat: 320,
    end_beat: kind === 'cut' ? 320 : 384,
    out_span: null,
    in_span: null,
    takes: [],
    transition: {
      out_id: 'e1', in_id: 'e2', kind, tempo: 'ramp', out_at: 320, in_at: 4, beats: kind === 'blend' ? 64 : 0,
      lead: 0, seconds: kind === 'fade' ? 8 : 0, way: { before: 0, after: 0, step_bpm: 5, step_bars: 4 }, nudge_ms: 0,
      volume_law: 'fader', effects: EFFECTS, gap: null, ...more,
      outgoing: side, incoming: { ...side, volume: curve([0, 0], [1, 1]) },
    },
  } as unknown as PlannedTransition // prettier-ignore
}

const EFFECTS = { resonance: 0.2, echo_beats: 0.75, echo_feedback: 0.5, echo_damping: 0.4, reverb_s: 2.5, reverb_colour: 0.5 } // prettier-ignore

let sent: Command[]
beforeEach(() => {
  setActivePinia(createPinia())
  sent = []
  const mix = useMix()
  mix.mix = {
    id: 'm',
    version: 1,
    tempo_marks: [{ entry_id: 'e2', beat: 8, bpm: 126, onward: 'smooth' }],
    plan: { entries: [outgoing.entry, incoming.entry], clocks: [{ tempo: [[320, 120], [384, 124]], origin_beat: 0 }], warnings: [{ kind: 'tempo_leap', message: 'It is bent.', transition: 0 }] },
  } as never // prettier-ignore
  vi.spyOn(mix, 'send').mockImplementation((command) => {
    sent.push(command)
    return Promise.resolve(true)
  })
})

/** The panel inside of what gives it its transition. */
function shown(planned: PlannedTransition, several: number[]) {
  const Around = defineComponent(() => {
    const axis = useMix().clocks[0]!
    provideTransition(ref({ planned, axis, outgoing, incoming, several }) as never)
    return () => h(TransitionPanel)
  })
  return mount(Around, { attachTo: document.body })
}

function panel(kind: Kind = 'blend', more: object = {}) {
  localStorage.clear()
  for (const part of ['takes', 'gap', 'effects', 'tempo-points'])
    localStorage.setItem(`fernbrook-fold-${part}`, 'true')
  return shown(planned(kind, more), [0])
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
    expect(cut).toContain('speed 0 %')
  })

  it('offer shapes, level and key lock of both sides, and a fresh start', async () => {
    const wrapper = panel()
    const press = (label: string) =>
      wrapper
        .findAll('button')
        .find((b) => b.text() === label)!
        .trigger('click')
    await wrapper.findAll('input[type=radio]')[1]!.setValue(true)
    await press('match level')
    await press('As if untouched')
    await wrapper.get('[aria-label="Incoming key lock"]').trigger('click')
    await type(wrapper.get('[aria-label="Outgoing gain in dB"]'), '-3')
    expect(sent).toEqual([
      { kind: 'set_kind', out_id: 'e1', in_id: 'e2', to: 'cut' },
      { kind: 'set_gain', entry_id: 'e2', gain_db: null },
      { kind: 'reset_transition', out_id: 'e1', in_id: 'e2' },
      { kind: 'set_key_lock', entry_id: 'e2', key_lock: false },
      { kind: 'set_gain', entry_id: 'e1', gain_db: -3 },
    ])
  })
})

describe('a transition of another kind', () => {
  it('as a fade is counted in seconds, and says how its faders go', async () => {
    const wrapper = panel('fade')
    await type(wrapper.get('#length-seconds'), '12')
    await wrapper.get('#volume-law').setValue('linear')
    expect(sent).toEqual([
      { kind: 'place_transition', out_id: 'e1', in_id: 'e2', seconds: 12 },
      { kind: 'set_volume_law', out_id: 'e1', in_id: 'e2', law: 'linear' },
    ])
    expect(wrapper.find('#tempo-policy').exists()).toBe(false)
  })

  it('as a cut has a lead in bars', async () => {
    await type(panel('cut').get('#lead-bars'), '2')
    expect(sent).toEqual([{ kind: 'place_transition', out_id: 'e1', in_id: 'e2', lead: 8 }])
  })
})

describe('gap, effects and tempo', () => {
  it('are set by few fields each', async () => {
    const wrapper = panel('blend', { tempo: 'steps' })
    await wrapper.get('[aria-label="Beats left out"]').setValue('4')
    await wrapper.get('#echo-beats').setValue('1')
    await type(wrapper.get('#resonance'), '50')
    await type(wrapper.get('#step-bars'), '2')
    await type(wrapper.get('#way-before'), '8')
    await type(wrapper.get('#nudge-ms'), '-7')
    const pair = { out_id: 'e1', in_id: 'e2' }
    expect(sent).toEqual([
      { kind: 'set_gap', ...pair, beats: 4 },
      { kind: 'set_effects', ...pair, echo_beats: 1 },
      { kind: 'set_effects', ...pair, resonance: 0.5 },
      { kind: 'set_tempo_policy', ...pair, step_bars: 2 },
      { kind: 'set_tempo_policy', ...pair, before: 32 },
      { kind: 'set_nudge', ...pair, ms: -7 },
    ])
  })

  it('a gap is taken back by choosing none', async () => {
    const wrapper = panel('blend', { gap: { beats: 4, before: 'end', side: 'both', rings: true } })
    await wrapper.get('[aria-label="Beats left out"]').setValue('0')
    expect(sent).toEqual([{ kind: 'set_gap', out_id: 'e1', in_id: 'e2', beats: 0 }])
  })
})

describe('the numbers of a point', () => {
  const fields = (...indices: number[]) => {
    const t = ref(planned())
    const editing = useCurveEditing(t, () => 64, ref(0), useMix().send)
    editing.pickMany(indices.map((index) => ({ side: 'outgoing', control: 'volume', index })))
    return mount(PointFields, {
      props: { transition: t.value.transition, editing, bar: 4 },
      attachTo: document.body,
    })
  }

  it('are bars into the overlap and decibels', async () => {
    const wrapper = fields(1)
    expect((wrapper.get('#point-at').element as HTMLInputElement).value).toBe('8')
    expect((wrapper.get('#point-value').element as HTMLInputElement).value).toBe('−3')
    await type(wrapper.get('#point-at'), '4')
    await type(wrapper.get('#point-value'), '-60')
    expect(sent.map((c) => ('curve' in c ? c.curve[1] : null))).toEqual([point(0.25, 0.5), point(0.5, 0)])
  })

  it('leave alone what is given at the edges', () => {
    expect(fields(0).text()).toContain('neutral, fixed')
    expect(fields(2).text()).toContain('at the end')
    expect(fields(2).find('#point-at').exists()).toBe(false)
  })

  it('take the point out, or several', async () => {
    await fields(1).get('.remove').trigger('click')
    expect(sent[0]).toMatchObject({ kind: 'set_curve', side: 'outgoing', control: 'volume' })
    expect((sent[0] as { curve: unknown[] }).curve).toHaveLength(2)
    expect(fields(0, 1).text()).toContain('2 points')
  })
})

describe('tempi set by hand', () => {
  it('are listed by entry and bar, changed by number, and taken away', async () => {
    const wrapper = panel()
    expect(wrapper.text()).toContain('Fern, bar 3.1')
    await type(wrapper.get('[aria-label="Tempo point 1 in BPM"]'), '128')
    await wrapper.get('[aria-label="On from tempo point 1"]').setValue('step')
    await wrapper.get('[aria-label="Remove tempo point 1"]').trigger('click')
    const mark = { entry_id: 'e2', beat: 8, bpm: 126, onward: 'smooth' }
    expect(sent).toEqual([
      { kind: 'set_tempo_marks', marks: [{ ...mark, bpm: 128 }] },
      { kind: 'set_tempo_marks', marks: [{ ...mark, onward: 'step' }] },
      { kind: 'set_tempo_marks', marks: [] },
    ])
  })
})

describe('several transitions that are chosen', () => {
  it('start from one shape together', () => {
    expect(shown(planned(), [0, 1]).text()).toContain('Start 2 from a shape')
  })
})
