import { createPinia, setActivePinia } from 'pinia'
import { mount } from '@vue/test-utils'
import { effectScope } from 'vue'
import { describe, expect, it } from 'vitest'
import type { ListedTrack } from '../../library/trackTable'
import { listenForKeys } from '../../composables/page/useKeys'
import TrackHeader from './TrackHeader.vue'

const track = (id: string, doubts: string[], checked = false) =>
  ({ id, title: id, artist: '', doubts, checked, bpm: 120 }) as unknown as ListedTrack

describe('the tracks to check', () => {
  it('come one after the other by button and by key, without those that were checked', async () => {
    setActivePinia(createPinia())
    const tracks = [
      track('here', ['octave']),
      track('sure', []),
      track('seen', ['key'], true),
      track('next', ['bar']),
    ]
    const listening = effectScope()
    listening.run(listenForKeys)
    const wrapper = mount(TrackHeader, {
      props: { track: tracks[0] as never, tracks },
      global: { stubs: { TrackPicker: true, UndoButtons: true } },
    })
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Next to check')!
      .trigger('click')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'N', shiftKey: true }))
    expect(wrapper.emitted('choose')).toEqual([['next'], ['next']])
    await wrapper.setProps({ track: tracks[3] as never })
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'N', shiftKey: true }))
    expect(wrapper.emitted('choose')!.at(-1)).toEqual(['here'])
    listening.stop()
  })
})
