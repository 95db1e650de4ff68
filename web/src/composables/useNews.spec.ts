import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { useMix } from '../stores/mix'

const looked: unknown[] = []
vi.mock('@tanstack/vue-query', () => ({
  useQueryClient: () => ({
    invalidateQueries: (filter?: { queryKey: string[] }) => looked.push(filter?.queryKey ?? 'all'),
  }),
}))

class FakeSource {
  static all: FakeSource[] = []
  onmessage?: (e: { data: string }) => void
  onerror?: () => void
  closed = false
  constructor(readonly url: string) {
    FakeSource.all.push(this)
  }
  close() {
    this.closed = true
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
    source!.say({ type: 'tracks' })
    source!.say({ type: 'tracks' })
    source!.say({ type: 'mixes' })
    source!.say({ type: 'job', kind: 'render', subject: 'm1', state: 'running' })
    source!.say({ type: 'job', kind: 'analyse', subject: 't1', state: 'done' })
    expect(looked).toEqual([['tracks'], ['tracks'], ['mixes'], ['renders', 'm1'], ['tracks']])
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
    FakeSource.all[0]!.onerror!()
    expect([line.value, FakeSource.all[0]!.closed]).toEqual(['lost', true])
    vi.advanceTimersByTime(2000)
    FakeSource.all[1]!.say({ type: 'hello' })
    expect([line.value, looked]).toEqual(['open', ['all']])
  })
})
