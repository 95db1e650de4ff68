import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { Layer, PlannedLayer } from '../../api/types'
import { point } from '../../time/curve'

const CONTROLS = [
  { control: 'volume', neutral: 1, processor: 'level', always: true },
  { control: 'filter', neutral: 0.5, processor: 'filter', always: false },
  { control: 'drums', neutral: 1, processor: 'stem', always: false },
]
vi.mock('../page/useTables', () => ({ useControls: () => ({ data: { value: CONTROLS } }) }))
const { useLayerLanes } = await import('./useLayerLanes')

let put: Layer[]
beforeEach(() => {
  localStorage.clear()
  put = []
})

function lanesOf(sound: object, curves: object = {}) {
  const layer = { id: 'l', sound, curves }
  const planned = ref({ layer, waits: '', start_beat: 16, end_beat: 48 } as unknown as PlannedLayer)
  return useLayerLanes(planned, ref(4), (l) => (put.push(l), Promise.resolve(true)))
}
const SWEEP = { of: 'made', sound: 'sweep', beats: 32 }

describe('the lanes of a layer', () => {
  it('are those of a transition but for the stems, and none of a silence', () => {
    const { lanes, lanesLeft } = lanesOf(SWEEP)
    expect(lanes.value.map((l) => l.spec.control)).toEqual(['volume'])
    expect(lanesLeft.value.map((s) => s.control)).toEqual(['filter'])
    expect(lanesOf({ ...SWEEP, sound: 'hush' }).lanes.value).toEqual([])
  })

  it('run over all of it, free at both ends, and keep the curves of other controls', async () => {
    const volume = [point(0, 1), point(1, 0.5)]
    const { editing } = lanesOf(SWEEP, { volume })
    expect(editing.beats('layer')).toBe(32)
    editing.pick({ side: 'layer', control: 'filter', index: 0 })
    editing.drag({ side: 'layer', control: 'filter', index: 0 }, 0, -0.3)
    await editing.commit()
    expect(put[0]!.curves.volume).toEqual(volume)
    expect(put[0]!.curves.filter!.map((p) => [p[0], Number(p[1].toFixed(2))])).toEqual([[0, 0.2], [1, 0.5]]) // prettier-ignore
    const added = editing.add('layer', 'volume', 0.52, 0.9)
    expect(added).toEqual({ side: 'layer', control: 'volume', index: 1 })
    await editing.commit()
    expect(put[1]!.curves.volume![1]![0]).toBe(0.5)
  })
})
