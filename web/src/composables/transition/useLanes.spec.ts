import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, ref } from 'vue'
import type { PlannedTransition } from '../../api/types'
import { point } from '../../time/curve'
import type { Placing } from './usePlacing'
import type { SeamViewport } from './useSeamView'

const CONTROLS = [
  { control: 'volume', neutral: 1, processor: 'level', always: true },
  { control: 'mid', neutral: 1, processor: 'equaliser', always: false },
  { control: 'filter', neutral: 0.5, processor: 'filter', always: false },
]
vi.mock('../page/useTables', () => ({ useControls: () => ({ data: { value: CONTROLS } }) }))
const { useLanes } = await import('./useLanes')

function lanesOf(kind: string, outgoing: object = {}, lead = 0) {
  const planned = ref({ transition: { out_id: 'a', in_id: 'b', kind, outgoing, incoming: {} } } as unknown as PlannedTransition) // prettier-ignore
  const length = kind === 'cut' ? 0 : 32
  const placing = {
    start: computed(() => 100),
    end: computed(() => 100 + length),
    place: computed(() => ({ outAt: 0, inAt: 0, beats: length, lead })),
  } as unknown as Placing
  const view = { xOf: (beat: number) => beat * 10 } as SeamViewport
  return useLanes(planned, placing, view, ref(1), () => Promise.resolve(true))
}
const names = (lanes: ReturnType<typeof lanesOf>) => lanes.lanes.value.map((l) => l.spec.control)

describe('the lanes of a transition', () => {
  beforeEach(() => localStorage.clear())

  it('are those that are always shown and those in which something happens', () => {
    expect(names(lanesOf('blend'))).toEqual(['volume'])
    const swept = lanesOf('blend', { filter: [point(0, 0.5), point(1, 0.9)] })
    expect(names(swept)).toEqual(['volume', 'filter'])
    expect(swept.lanes.value.map((l) => l.canFold)).toEqual([false, false])
    expect(swept.lanesLeft.value.map((s) => s.control)).toEqual(['mid'])
  })

  it('can be opened and folded while nothing happens in them', () => {
    const lanes = lanesOf('blend')
    lanes.openLane('filter')
    expect(lanes.lanes.value.map((l) => [l.spec.control, l.canFold])).toEqual([['volume', false], ['filter', true]]) // prettier-ignore
    lanes.foldLane('filter')
    expect(names(lanes)).toEqual(['volume'])
  })

  it('run over the overlap, over the lead of a cut on one side alone, and nowhere without one', () => {
    expect(lanesOf('blend').spans.value).toEqual({
      outgoing: { startX: 1000, endX: 1320 },
      incoming: { startX: 1000, endX: 1320 },
    })
    const led = lanesOf('cut', {}, 8)
    expect(led.spans.value).toEqual({ outgoing: { startX: 920, endX: 1000 }, incoming: undefined })
    expect(led.editing.beats('outgoing')).toBe(8)
    const clean = lanesOf('cut')
    expect(names(clean)).toEqual([])
    expect(clean.lanesLeft.value).toEqual([])
    expect(names(lanesOf('apart'))).toEqual([])
  })
})
