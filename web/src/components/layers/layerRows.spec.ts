import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, nextTick, ref } from 'vue'
import type { Layer, PlannedLayer } from '../../api/types'
import type { Layers } from '../../composables/layers/useLayers'
import { settleAll } from '../../stores/resting'
import { Clock } from '../../time/clock'
import { packed } from '../../time/layers'
import LayerRows from './LayerRows.vue'

const clock = new Clock({ origin_beat: 0, tempo: [[0, 120]] })
vi.mock('../../stores/mix', () => ({ useMix: () => ({ clocks: [clock], mix: { version: 1 } }) }))

const planned = (id: string, start: number, end: number, more: object = {}) =>
  ({
    layer: {
      id, on: true, times: 1, apart: null, fade_in: 0, fade_out: 0, at: { to: 'mix', beat: start * 2 },
      sound: { of: 'track', track_id: 't', start: 0, beats: (end - start) * 2, count: 1 }, ...more,
    },
    words: `layer ${id}`, clock: 0, waits: '', leads_up: 'sound' in more, start_s: start, end_s: end, start_beat: start * 2, end_beat: end * 2,
    heard: [{ start_s: start, end_s: end }],
  }) as unknown as PlannedLayer // prettier-ignore

let put: Layer[]
let removed: string[]
beforeEach(() => {
  put = []
  removed = []
})

function rowsOf(...all: PlannedLayer[]) {
  const layers = {
    heard: ref(all),
    rows: computed(() => packed(all)),
    put: (layer: Layer) => (put.push(layer), Promise.resolve(true)),
    remove: (id: string) => removed.push(id),
  } as unknown as Layers
  const wrapper = mount(LayerRows, {
    props: { layers, xOf: (s: number) => s * 10, secondsOf: (x: number) => x / 10, width: 1000, unit: 4 },
  })
  return { wrapper, bars: wrapper.findAll('[role=slider]') }
}

function drag(element: Element, dx: number) {
  element.setPointerCapture = () => undefined
  element.dispatchEvent(new PointerEvent('pointerdown', { button: 0, clientX: 0, bubbles: true }))
  window.dispatchEvent(new PointerEvent('pointermove', { clientX: dx }))
}
const release = () => window.dispatchEvent(new PointerEvent('pointerup'))

describe('layers as rows', () => {
  it('lie where they are heard, each in a row of its own where they meet, and not out of view', () => {
    const { bars, wrapper } = rowsOf(planned('a', 10, 20), planned('b', 15, 25), planned('c', 200, 210))
    expect(bars.map((b) => b.attributes('aria-label'))).toEqual(['Layer: layer a', 'Layer: layer b'])
    expect(bars.map((b) => (b.element as HTMLElement).style.left)).toEqual(['100px', '150px'])
    expect((bars[1]!.element as HTMLElement).style.top).toBe('21px')
    expect((wrapper.element as HTMLElement).style.height).toBe('40px')
  })

  it('are dragged on bar lines, and shown where they would go', async () => {
    const { bars, wrapper } = rowsOf(planned('a', 10, 20))
    drag(bars[0]!.element, 33)
    await nextTick()
    expect((wrapper.find('[role=slider]').element as HTMLElement).style.left).toBe('140px')
    release()
    expect(put.map((l) => l.at.beat)).toEqual([28])
    expect(wrapper.emitted('choose')).toEqual([['a']])
  })

  it('are made longer at their end, or at their start where they lead up to something', () => {
    const sweep = { sound: { of: 'made', sound: 'sweep', beats: 20 } }
    const { bars } = rowsOf(planned('a', 10, 20), planned('s', 40, 50, sweep))
    for (const [i, dx] of [
      [0, 41],
      [1, -39],
    ] as const) {
      drag(bars[i]!.find('.end').element, dx) // prettier-ignore
      release()
    }
    expect(put.map((l) => l.sound.beats)).toEqual([28, 28])
    expect(bars[1]!.find('.end').classes()).toContain('up')
  })

  it('are moved, lengthened and taken away by keys', async () => {
    const { bars } = rowsOf(planned('a', 10, 20))
    await bars[0]!.trigger('keydown', { key: 'ArrowRight' })
    await bars[0]!.trigger('keydown', { key: 'ArrowRight' })
    await settleAll()
    await bars[0]!.trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    await settleAll()
    await bars[0]!.trigger('keydown', { key: 'ArrowRight', ctrlKey: true })
    expect(put).toHaveLength(2)
    await bars[0]!.trigger('keydown', { key: 'Delete' })
    expect(put.map((l) => [l.at.beat, l.sound.beats])).toEqual([[28, 20], [4, 20], [20, 24]]) // prettier-ignore
    expect(removed).toEqual(['a'])
  })
})
