import { VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { MarkupCommand, Track } from '../../api/types'

const server = await vi.hoisted(async () => (await import('../../tests/server')).pretendServer())
vi.mock('../../api/client', () => server.client)

const { useGridActions } = await import('../../composables/track/useGridActions')
const { useMarkup } = await import('../../stores/markup')
const { default: GridControls } = await import('./GridControls.vue')
const { default: StraightenBox } = await import('./StraightenBox.vue')

const grid = {
  anchors: [{ time_s: 1, beat: 0, ramp: 1 }],
  bpm_before: 120,
  bpm_after: 120,
  beats_per_bar: 4,
  bars_from: [],
}
const doubt = (kind: string, text: string, more = {}) => ({ kind, text, bpm: null, at_s: null, ...more })

let sent: MarkupCommand[]
let measured: unknown[][]
beforeEach(() => {
  setActivePinia(createPinia())
  server.calls.length = server.answers.length = 0
  document.body.innerHTML = ''
  const markup = useMarkup()
  sent = []
  measured = []
  vi.spyOn(markup, 'send').mockImplementation((command) => {
    sent.push(command)
    return Promise.resolve(true)
  })
  for (const name of ['measure', 'follow'] as const)
    vi.spyOn(markup, name).mockImplementation((...asked: unknown[]) => {
      measured.push([name, ...asked])
      return Promise.resolve(true)
    })
})

function panel(changes: { markup?: object; doubts?: object[]; late?: number; cursor?: number } = {}) {
  const markup = useMarkup()
  const sections = [
    { kind: 'beat', start: 0, end: 32, name: '' },
    { kind: 'full', start: 32, end: 96, name: '' },
  ]
  markup.track = {
    id: 't', version: 1, mean_bpm: 120,
    markup: { grid, sections, voice: [], by_hand: false, checked: false, ...changes.markup },
  } as never // prettier-ignore
  markup.offsets = { first: 0, late_ms: [changes.late ?? 1], clear: [1] }
  const cursor = changes.cursor ?? 19.1
  const track = { id: 't', doubts: changes.doubts ?? [] } as unknown as Track
  return mount(GridControls, {
    props: { actions: useGridActions(ref(cursor), ref({ low: 60, high: 200 })), track, cursor, taps: 0 },
    global: { plugins: [VueQueryPlugin] },
    attachTo: document.body,
  })
}

const field = (wrapper: ReturnType<typeof panel>, label: string) =>
  wrapper.get(`input[aria-label="${label}"]`)

async function type(input: ReturnType<typeof field>, value: string) {
  await input.setValue(value)
  await input.trigger('keydown', { key: 'Enter', keyCode: 13 })
  await input.trigger('blur')
  await flushPromises()
}

function button(wrapper: ReturnType<typeof panel>, text: string) {
  return wrapper.findAll('button').find((b) => b.text().startsWith(text))!
}

describe('what to look at', () => {
  it('is each doubt in its words, with a way to its place', async () => {
    const wrapper = panel({
      doubts: [doubt('gap', 'Almost no beat from 1:00 to 1:40.', { at_s: 60 }), doubt('bar', 'Which beat is the first?')],
    }) // prettier-ignore
    expect(wrapper.findAll('.doubts li').map((li) => li.text().replace('Go there', '').trim())).toEqual([
      'Almost no beat from 1:00 to 1:40.',
      'Which beat is the first?',
    ])
    await button(wrapper, 'Go there').trigger('click')
    expect(wrapper.emitted('seek')).toEqual([[60]])
  })

  it('says how far the onsets lie from the lines, and whether that can be heard', () => {
    expect(panel({ late: 1.2 }).text()).toContain('1.2 ms from the lines, which is fine')
    expect(panel({ late: -17 }).text()).toContain('17.0 ms from the lines, which can be heard')
  })

  it('leaves a grid that is changed by hand to the user', () => {
    const wrapper = panel({ markup: { by_hand: true }, doubts: [doubt('drift', 'Onsets lie off.')] })
    expect(wrapper.text()).toContain('You set this grid')
    expect(wrapper.text()).not.toContain('Onsets lie off.')
  })

  it('counts half or twice as many beats from the line at the cursor on', async () => {
    const wrapper = panel()
    await wrapper.get('[aria-label="Twice as many beats from here on"]').trigger('click')
    expect(sent).toEqual([{ kind: 'scale_from', beat: 36, factor: 2 }])
  })

  it('offers the other tempo where two fit', async () => {
    const wrapper = panel({
      doubts: [doubt('octave', 'Two tempi fit about equally: 120 and 60 BPM.', { bpm: 60 })],
    })
    await button(wrapper, 'Take 60 BPM instead').trigger('click')
    expect(sent).toEqual([{ kind: 'scale_tempo', factor: 0.5 }])
  })
})

describe('the numbers of a grid', () => {
  it('set the tempo about the line at the cursor, and a new one from there', async () => {
    const wrapper = panel()
    expect((field(wrapper, 'Tempo in BPM').element as HTMLInputElement).value).toBe('120')
    await type(field(wrapper, 'Tempo in BPM'), '119.5')
    await type(field(wrapper, 'New tempo from here in BPM'), '126')
    expect(sent).toEqual([
      { kind: 'set_tempo', bpm: 119.5, about_beat: 36 },
      { kind: 'tempo_from', beat: 36, at_s: 19.1, bpm: 126 },
    ])
  })

  it('slide by the milliseconds that are typed, and stand at none again', async () => {
    const wrapper = panel()
    await type(field(wrapper, 'Slide by ms'), '-7')
    expect(sent).toEqual([{ kind: 'slide', by_s: -0.007 }])
    expect((field(wrapper, 'Slide by ms').element as HTMLInputElement).value).toBe('0')
  })

  it('measure and follow everywhere, or in the section at the cursor', async () => {
    const wrapper = panel()
    await button(wrapper, 'Measure again').trigger('click')
    await wrapper.findAll('.ant-segmented-item-input')[1]!.setValue(true)
    await flushPromises()
    await button(wrapper, 'Measure again').trigger('click')
    await button(wrapper, 'Every bar').trigger('click')
    expect(measured).toEqual([
      ['measure', { low: 60, high: 200 }, undefined],
      ['measure', { low: 60, high: 200 }, { start_s: 17, end_s: 49 }],
      ['follow', 4, { from_beat: 32, to_beat: 96 }],
    ])
  })

  it('are out of use where there is no grid, but for the tempo', () => {
    const wrapper = panel({ markup: { grid: null } })
    for (const text of ['½', 'Snap to onset', 'Bar 1 starts here', 'Every beat'])
      expect(button(wrapper, text).attributes('disabled')).toBeDefined()
    expect(field(wrapper, 'Tempo in BPM').attributes('disabled')).toBeUndefined()
  })
})

describe('straightening', () => {
  server.standing.set('/api/formats', [{ id: 'wav24', label: 'WAV, 24 bit' }])

  async function box(trackId: string, suggested: number) {
    server.answers.push({ suggested_bpm: suggested, renders: [] })
    const wrapper = mount(StraightenBox, {
      props: { trackId, version: 1 },
      global: { plugins: [VueQueryPlugin] },
      attachTo: document.body,
    })
    await flushPromises()
    return wrapper
  }
  const tempo = (wrapper: Awaited<ReturnType<typeof box>>) =>
    wrapper.get<HTMLInputElement>('input[aria-label="Steady tempo in BPM"]').element.value

  it('suggests the mean tempo of the track that is open', async () => {
    const wrapper = await box('one', 118)
    expect(tempo(wrapper)).toBe('118')
    server.answers.push({ suggested_bpm: 122, renders: [] })
    await wrapper.setProps({ trackId: 'two' })
    await flushPromises()
    expect(tempo(wrapper)).toBe('122')
    server.answers.push({ suggested_bpm: 61, renders: [] })
    await wrapper.setProps({ version: 2 })
    await flushPromises()
    expect(tempo(wrapper)).toBe('61')
  })

  it('asks for a render at the tempo that is typed', async () => {
    const wrapper = await box('three', 118)
    await wrapper.get('input[aria-label="Steady tempo in BPM"]').setValue('120')
    await wrapper.get('input[aria-label="Steady tempo in BPM"]').trigger('blur')
    server.answers.push({}, { suggested_bpm: 118, renders: [] })
    await wrapper.get('button.ant-btn-default').trigger('click')
    await flushPromises()
    expect(server.calls.find((c) => c.body)?.body).toEqual({ bpm: 120, output: 'wav24' })
  })
})
