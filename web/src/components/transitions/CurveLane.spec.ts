import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import type { Command, ControlSpec, Curve, PlannedTransition } from '../../api/types'
import { useCurveEditing } from '../../composables/transition/useCurveEditing'
import { settleAll } from '../../stores/resting'
import { hueOf } from '../../theme/hues'
import { point } from '../../time/curve'
import CurveLane from './CurveLane.vue'

const LOW = {
  control: 'low',
  label: 'Low',
  law: 'fader',
  neutral: 1,
  processor: 'equaliser',
} as unknown as ControlSpec
const FILTER = { ...LOW, control: 'filter', label: 'Filter', law: 'filter', neutral: 0.5 } as ControlSpec
vi.mock('../../composables/page/useTables', () => ({
  useControls: () => ({ data: { value: [LOW, FILTER] } }),
}))

const out: Curve = [point(0, 1), point(0.5, 0.5), point(1, 0)]
const into: Curve = [point(0, 0), point(1, 1)]

let sent: Command[]
beforeEach(() => {
  sent = []
})

function editingOf(unit = 0) {
  const planned = ref({
    transition: { out_id: 'a', in_id: 'b', kind: 'blend', outgoing: { low: out }, incoming: { low: into } },
  } as unknown as PlannedTransition)
  const send = (command: Command) => {
    sent.push(command)
    return Promise.resolve(true)
  }
  return useCurveEditing(planned, () => 32, ref(unit), send)
}

function lane(options: { playX?: number; spec?: ControlSpec; unit?: number; cut?: boolean } = {}) {
  const editing = editingOf(options.unit)
  const span = { startX: 100, endX: 300 }
  const wrapper = mount(CurveLane, {
    props: {
      spec: options.spec ?? LOW,
      volumeLaw: 'fader' as const,
      editing,
      hues: { outgoing: hueOf(0), incoming: hueOf(1) },
      spans: { outgoing: span, incoming: options.cut ? undefined : span },
      width: 400,
      height: 54,
      playX: options.playX,
    },
  })
  return { wrapper, editing, points: wrapper.findAll('[role=slider]') }
}

const curveSent = () => (sent[sent.length - 1] as { curve: Curve }).curve

describe('a lane with both sides’ curves', () => {
  it('draws each line over the overlap and level beyond it', () => {
    const lines = lane().wrapper.findAll('polyline')
    expect(lines[0]!.attributes('points')).toBe('0,7 100,7 200,27 300,47')
    expect(lines[1]!.attributes('points')).toBe('100,47 300,7 400,7')
  })

  it('has one side alone where the other has no span', () => {
    expect(lane({ cut: true }).wrapper.findAll('polyline')).toHaveLength(1)
  })

  it('names its points and tells their levels, those of a filter by what it lets through', () => {
    const { points } = lane()
    expect(points.map((p) => p.attributes('aria-label'))).toEqual([
      'outgoing low point 1',
      'outgoing low point 2',
      'outgoing low point 3',
      'incoming low point 1',
      'incoming low point 2',
    ])
    expect(points.map((p) => p.attributes('aria-valuetext'))).toEqual([
      '0 dB',
      '−3.0 dB',
      'off',
      'off',
      '0 dB',
    ])
    expect(lane({ spec: FILTER }).points[0]!.attributes('aria-valuetext')).toBe('open')
  })

  it('moves a point by keys, finely with shift, by beats where these are snapped to', async () => {
    const { points } = lane()
    await points[1]!.trigger('keydown', { key: 'ArrowUp' })
    await points[1]!.trigger('keydown', { key: 'ArrowUp' })
    await settleAll()
    expect(sent).toHaveLength(1)
    expect(curveSent()[1]![1]).toBeCloseTo(0.6)
    await points[1]!.trigger('keydown', { key: 'ArrowRight', shiftKey: true })
    await settleAll()
    expect(curveSent()[1]![0]).toBeCloseTo(0.504)
    await lane({ unit: 4 }).points[1]!.trigger('keydown', { key: 'ArrowRight' })
    await settleAll()
    expect(curveSent()[1]![0]).toBeCloseTo(0.5 + 4 / 32)
  })

  it('keeps the level that a side must start or end with', async () => {
    const { points } = lane()
    await points[0]!.trigger('keydown', { key: 'ArrowDown' })
    await settleAll()
    expect(curveSent()[0]).toEqual(point(0, 1))
  })

  it('takes out a point by key and by double click, but no edge', async () => {
    const { points } = lane()
    await points[1]!.trigger('keydown', { key: 'Delete' })
    await points[1]!.trigger('dblclick')
    await points[2]!.trigger('dblclick')
    expect(sent.map((c) => (c as { curve: Curve }).curve.length)).toEqual([2, 2])
  })

  it('goes on straight, in an S or in a step by one key', async () => {
    const { points } = lane()
    await points[1]!.trigger('keydown', { key: 's' })
    expect(curveSent()[1]![2]).toBe('smooth')
  })

  it('reads both levels at the playhead', () => {
    expect(lane({ playX: 200 }).wrapper.find('.reading').text()).toBe('−3.0 dB / −3.0 dB')
    expect(lane().wrapper.find('.reading').exists()).toBe(false)
  })

  it('marks which points are chosen', async () => {
    const { wrapper, editing, points } = lane()
    await points[4]!.trigger('focus')
    expect(editing.picked.value).toEqual([{ side: 'incoming', control: 'low', index: 1 }])
    editing.pick({ side: 'outgoing', control: 'low', index: 1 }, true)
    await nextTick()
    expect(wrapper.findAll('.ring')).toHaveLength(2)
  })
})

describe('points of several curves', () => {
  it('are moved and sent as one step', async () => {
    const editing = editingOf(1)
    editing.pickMany([
      { side: 'outgoing', control: 'low', index: 1 },
      { side: 'incoming', control: 'low', index: 0 },
    ])
    editing.drag({ side: 'outgoing', control: 'low', index: 1 }, 0.13, 0.2)
    expect(editing.shown('outgoing', 'low')[1]).toEqual(point(0.625, 0.7))
    await editing.commit()
    expect(sent[0]).toMatchObject({ kind: 'set_curves', out_id: 'a' })
    const curves = (sent[0] as { curves: { curve: Curve }[] }).curves
    expect(curves.map((lane) => lane.curve[0]![1])).toEqual([1, 0.2])
  })

  it('are copied to another lane, and mirrored to the other side', async () => {
    const editing = editingOf()
    editing.copy('outgoing', 'low')
    await editing.paste('incoming', 'filter')
    expect(sent[0]).toMatchObject({ side: 'incoming', control: 'filter' })
    expect(curveSent().map(([, v]) => v)).toEqual([1, 0.5, 0.5])
    await editing.mirror('outgoing', 'low')
    expect(sent[1]).toMatchObject({ side: 'incoming', control: 'low' })
    expect(curveSent().map(([, v]) => v)).toEqual([0, 0.5, 1])
  })

  it('go back where they were when the change is refused', async () => {
    const planned = ref({
      transition: { out_id: 'a', in_id: 'b', outgoing: { low: out }, incoming: {} },
    } as never)
    const editing = useCurveEditing(
      planned,
      () => 32,
      ref(0),
      () => Promise.resolve(false),
    )
    editing.pick({ side: 'outgoing', control: 'low', index: 1 })
    editing.drag({ side: 'outgoing', control: 'low', index: 1 }, 0, 0.3)
    await editing.commit()
    expect(editing.shown('outgoing', 'low')[1]![1]).toBe(0.5)
  })
})
