import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { useMix } from '../../stores/mix'

const looked: unknown[] = []
vi.mock('@tanstack/vue-query', () => ({
  useQueryClient: () => ({
    invalidateQueries: (filter?: { queryKey: string[] }) => looked.push(filter?.queryKey ?? 'all'),
  }),
}))

class FakeSource {
  static all: FakeSource[] = []
  onmessage?: (e: { data: string }) => void
  onerror?: (e: object) => void
  onopen?: () => void
  readyState = 1
  constructor(readonly url: string) {
    FakeSource.all.push(this)
  }
  close() {
    this.readyState = 2
  }
  /** The line breaks, and the browser gives up on it. */
  lose() {
    this.readyState = 2
    this.onerror!({})
  }
  say(news: object) {
    this.onmessage!({ data: JSON.stringify(news) })
  }
}
vi.stubGlobal('EventSource', FakeSource)
const { useNews } = await import('./useNews')

describe('news from the server', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    FakeSource.all = []
    looked.length = 0
    vi.useFakeTimers()
  })

  it('has looked at again what it is about, each time it comes', () => {
    useNews()
    const [source] = FakeSource.all
    for (let i = 0; i < 3; i++) source!.say({ type: 'mixes' })
    source!.say({ type: 'job', kind: 'render', subject: 'm1', state: 'running' })
    for (const [kind, subject] of [
      ['separate', 't1'],
      ['stick', 'stick'],
      ['unheard of', 'x'],
    ])
      source!.say({ type: 'job', kind, subject, state: 'running' })
    source!.say({ type: 'job', kind: 'analyse', subject: 't1', state: 'done' })
    expect(looked).toEqual([
      ['mixes'], ['mixes'], ['mixes'], ['renders', 'm1'], ['stems', 't1'], ['stick', 'filling'], ['render-paces'], ['course'], ['tracks'],
    ]) // prettier-ignore
  })

  it('has the list of tracks looked at once a second, and once more after the last of it', () => {
    useNews()
    for (let i = 0; i < 20; i++) FakeSource.all[0]!.say({ type: 'tracks' })
    expect(looked).toEqual([['tracks']])
    vi.advanceTimersByTime(1100)
    expect(looked).toEqual([['tracks'], ['tracks']])
  })

  it('has a mix looked at that knows an older version of a track', () => {
    const mix = useMix()
    mix.mix = { id: 'm1', plan: { entries: [{ track_id: 't1', track_version: 3 }] } } as never
    const opened = vi.spyOn(mix, 'heardOfTrack').mockResolvedValue()
    useNews()
    FakeSource.all[0]!.say({ type: 'track', id: 't1', version: 4 })
    expect(opened).toHaveBeenCalledWith('t1', 4)
  })

  it('tells the open mix that it was changed', () => {
    const heard = vi.spyOn(useMix(), 'heard').mockResolvedValue()
    useNews()
    FakeSource.all[0]!.say({ type: 'mix', id: 'm1', version: 8 })
    expect(heard).toHaveBeenCalledWith('m1', 8)
  })

  it('is asked for again when the line is lost, and then everything is looked at', () => {
    const line = useNews()
    FakeSource.all[0]!.say({ type: 'hello' })
    expect([line.value, looked]).toEqual(['open', []])
    FakeSource.all[0]!.lose()
    expect(line.value).toBe('lost')
    vi.advanceTimersByTime(2000)
    FakeSource.all[1]!.say({ type: 'hello' })
    expect([line.value, looked]).toEqual(['open', ['all']])
  })
})
