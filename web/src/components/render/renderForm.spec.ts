import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import type { Format, Plan, RenderWish } from '../../api/types'

const format = (id: string, more: Partial<Format> = {}) =>
  ({
    id,
    label: id,
    hint: '',
    is_lossless: true,
    is_video: false,
    bytes_per_second: 100_000,
    ...more,
  }) as Format
const formats = ref([
  format('wav24'),
  format('mp3_320', { is_lossless: false }),
  format('video_h264', { is_lossless: false, is_video: true }),
])
const paces = ref({ files: { wav24: 60, mp3_320: 10, video_h264: 2 }, lanes: 8, beside: 0 })
vi.mock('../../composables/page/useTables', () => ({ useFormats: () => ({ data: formats }) }))
vi.mock('../../composables/export/useRenders', () => ({ usePaces: () => ({ data: paces }) }))
const { default: RenderForm } = await import('./RenderForm.vue')

const plan = {
  duration_s: 600,
  entries: [{ title: 'Moss' }, { title: 'Fern' }],
  transitions: [{ index: 0, start_s: 200, end_s: 230 }],
} as unknown as Plan

function form(of: Plan = plan) {
  const wishes: RenderWish[] = []
  const wrapper = mount(RenderForm, { props: { plan: of, onRender: (w: RenderWish) => wishes.push(w) } })
  const what = (value: string) => wrapper.get('#render-part').setValue(value)
  const kinds = () => wrapper.findAll('.format').map((f) => f.get('strong').text())
  const go = async () => {
    await wrapper
      .findAll('button')
      .find((b) => b.text().startsWith('Render'))!
      .trigger('click')
    return wishes.at(-1)!
  }
  return { wrapper, what, kinds, go }
}

describe('what a mix is rendered to', () => {
  it('says how large and how long each kind becomes before', () => {
    const rows = form().wrapper.findAll('.format')
    expect(rows.map((r) => r.get('.size').text())).toEqual(['60.0 MB', '60.0 MB', '60.0 MB'])
    expect(rows.map((r) => r.get('.time').text())).toEqual(['about 0:10', 'about 1:00', 'about 5:00'])
  })

  it('says when other jobs run before or beside it', async () => {
    const { wrapper } = form()
    expect(wrapper.text()).not.toContain('for it alone')
    paces.value = { ...paces.value, beside: 3 }
    await nextTick()
    expect(wrapper.text()).toContain('These times are for it alone: 3 other jobs run before or beside it.')
    paces.value = { ...paces.value, beside: 0 }
  })

  it('takes as long again where a loudness is to be reached', async () => {
    const { wrapper, go } = form()
    await wrapper.get('#render-level').setValue('-14')
    expect(wrapper.get('.time').text()).toBe('about 0:20')
    expect(wrapper.text()).toContain('It is rendered twice')
    expect((await go()).loudness_lufs).toBe(-14)
  })

  it('offers what suits: no video of many files, nothing lossy for lanes', async () => {
    const { what, kinds, go, wrapper } = form()
    await what('tracks')
    expect(kinds()).toEqual(['wav24', 'mp3_320'])
    await what('lanes')
    expect(kinds()).toEqual(['wav24'])
    expect(wrapper.get('.time').text()).toBe('about 1:15')
    await wrapper.findAll('.ticks input')[1]!.setValue(true)
    expect(await go()).toMatchObject({
      what: 'lanes',
      output: 'wav24',
      by_stem: true,
      curves: true,
      start_s: null,
    })
  })

  it('keeps to a kind that was picked as long as it suits', async () => {
    const { wrapper, what, go } = form()
    await wrapper.findAll('.format input')[1]!.trigger('change')
    await what('teaser')
    expect(await go()).toMatchObject({ what: 'teaser', output: 'mp3_320' })
    await what('lanes')
    expect((await go()).output).toBe('wav24')
  })

  it('takes a transition with what is around it, or any part', async () => {
    const { what, go, wrapper } = form()
    await what('0')
    expect(await go()).toMatchObject({ what: 'mix', start_s: 185, end_s: 245 })
    await what('part')
    expect(wrapper.text()).toContain('From second')
    expect(await go()).toMatchObject({ start_s: 0, end_s: 600 })
  })

  it('has no teaser of a mix without transitions', () => {
    const alone = { ...plan, transitions: [] } as unknown as Plan
    const options = form(alone)
      .wrapper.findAll('#render-part option')
      .map((o) => o.attributes('value'))
    expect(options).toEqual(['mix', 'tracks', 'lanes', 'part'])
  })
})
