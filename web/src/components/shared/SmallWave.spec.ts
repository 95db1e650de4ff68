import { VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, watchEffect } from 'vue'
import { hueOf } from '../../theme/hues'

vi.mock('../../composables/page/useCanvas', () => ({
  useCanvas: (_: unknown, draw: (surface: object) => void) =>
    watchEffect(() => draw({ context: { fillRect: () => undefined }, width: 10, height: 10 })),
}))
const { useTrackPictures } = await import('../../pictures/trackPictures')
const { default: SmallWave } = await import('./SmallWave.vue')

const fetched: string[] = []
vi.stubGlobal('fetch', (address: string) => {
  fetched.push(address)
  return Promise.resolve({ ok: true, arrayBuffer: () => Promise.resolve(new ArrayBuffer(30)) })
})

function row(trackId: string) {
  const Around = defineComponent(() => {
    useTrackPictures()
    return () => h(SmallWave, { trackId, title: trackId, duration: 100, hue: hueOf(0) })
  })
  return mount(Around, { global: { plugins: [VueQueryPlugin] } })
}

describe('the small waveform of a row', () => {
  beforeEach(() => {
    fetched.length = 0
    vi.useFakeTimers()
  })

  it('is asked for when the row stays, and not while a list runs past', async () => {
    for (let i = 0; i < 40; i++) {
      const passing = row(`past${i}`)
      await vi.advanceTimersByTimeAsync(16)
      passing.unmount()
    }
    row('stays')
    await vi.advanceTimersByTimeAsync(500)
    expect(fetched).toEqual(['/api/tracks/stays/peaks/16384'])
  })
})
