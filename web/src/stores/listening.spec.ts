import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { PlayOptions } from '../sound/player'
import type { PlayerReport } from '../sound/worklets/messages'

let report: (r: Partial<PlayerReport>) => void
let fail: (e: Error) => void
const played: PlayOptions[] = []
const done: string[] = []

vi.mock('../sound/player', () => ({
  RATE: 44_100,
  Player: class {
    constructor(onReport: (r: PlayerReport) => void, onError: (e: Error) => void) {
      const base: PlayerReport = {
        session: 1,
        position: 0,
        time: 0,
        kept: 0,
        end: 0,
        running: true,
        over: false,
        starved: false,
      }
      report = (r) => onReport({ ...base, ...r })
      fail = onError
    }
    play = (options: PlayOptions) => Promise.resolve(void played.push(options))
    run = (on: boolean) => void done.push(`run ${on}`)
    seek = (frame: number) => void done.push(`seek ${frame}`)
    setLoop = (on: boolean) => void done.push(`loop ${on}`)
    setLevel = () => undefined
    peak = () => 0
    time = 0
    latency = 0
  },
}))

const { useListening } = await import('./listening')

const piece = { kind: 'mix' as const, id: 'm', label: 'A → B', start: 1000, end: 9000, url: (from: number) => `/a?start=${from}`, loops: true } // prettier-ignore

describe('the listening bar', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    played.length = done.length = 0
  })

  it('counts frames of the mix, wherever the stream began', () => {
    const bar = useListening()
    bar.play(piece, 3000)
    expect(played[0]!.url).toBe('/a?start=3000')
    expect(bar.state).toBe('loading')
    report({ position: 500, end: 2000 })
    expect([bar.position, bar.state]).toEqual([3500, 'playing'])
    expect(bar.secondsIn('mix', 'm')).toBeCloseTo(3500 / 44_100)
    expect(bar.secondsIn('track', 'm')).toBeUndefined()
  })

  it('seeks within what has arrived, and asks again beyond it', () => {
    const bar = useListening()
    bar.play(piece)
    report({ position: 10, end: 4000 })
    bar.seek(2000)
    expect(done).toEqual(['seek 1000', 'run true'])
    bar.seek(8000)
    expect(played).toHaveLength(2)
    expect(played[1]!.url).toBe('/a?start=8000')
  })

  it('goes to the first and the last frame that are kept, and asks for those before and after', () => {
    const bar = useListening()
    bar.play(piece)
    for (const [frame, asks] of [
      [1100, 0],
      [4999, 0],
      [5000, 1],
      [1099, 2],
    ] as const) {
      // prettier-ignore
      report({ position: 2000, kept: 100, end: 4000 })
      bar.seek(frame)
      expect(played.length - 1, String(frame)).toBe(asks)
      if (asks) bar.play(piece)
      played.length = asks + 1
    }
  })

  it('holds, goes on, and starts over at the end', () => {
    const bar = useListening()
    bar.play(piece)
    report({ position: 10, end: 4000 })
    bar.toggle()
    expect(done).toEqual(['run false'])
    report({ position: 10, end: 4000, running: false })
    expect(bar.state).toBe('paused')
    bar.toggle()
    expect(done).toEqual(['run false', 'run true'])
    report({ position: 8000, end: 8000, running: false, over: true })
    expect(bar.state).toBe('over')
    bar.toggle()
    expect(played).toHaveLength(2)
  })

  it('is held at once while it is getting ready, and stays so when it arrives', () => {
    const bar = useListening()
    bar.play(piece)
    bar.toggle()
    expect([done, bar.state]).toEqual([['run false'], 'paused'])
    report({ end: 4000, running: false })
    bar.toggle()
    expect(done).toEqual(['run false', 'run true'])
  })

  it('stands where the sound stands', () => {
    vi.useFakeTimers({ toFake: ['performance'] })
    const bar = useListening()
    bar.play(piece)
    report({ position: 500, end: 4000 })
    vi.advanceTimersByTime(3000)
    expect(bar.heardIn('mix', 'm')).toBeCloseTo(1500 / 44_100 + 0.05)
    vi.useRealTimers()
  })

  it('says what went wrong until something else is played', () => {
    const bar = useListening()
    bar.play(piece)
    fail(new Error('The file has gone.'))
    report({ position: 0, end: 0 })
    expect([bar.state, bar.error]).toEqual(['error', 'The file has gone.'])
    bar.play(piece)
    expect([bar.state, bar.error]).toEqual(['loading', ''])
  })

  it('is getting ready while the sound has not arrived', () => {
    const bar = useListening()
    bar.play(piece)
    report({ position: 100, end: 100, starved: true })
    expect(bar.state).toBe('loading')
  })

  it('loops only what is kept whole', () => {
    const bar = useListening()
    bar.play({ ...piece, loops: false })
    bar.setLoop(true)
    expect(done).toEqual(['loop false'])
    bar.play(piece)
    expect(played[1]).toMatchObject({ loop: true, keepAll: true })
  })

  it('begins a piece that takes its place and has no such frame, instead of being over at once', () => {
    const bar = useListening()
    bar.play(piece, 8000)
    const shorter = { ...piece, start: 2000, end: 6000, url: (from: number) => `/b?start=${from}` }
    bar.renew(shorter, 8000)
    expect(played[1]!.url).toBe('/b?start=2000')
    report({ position: 10, end: 4000, running: false })
    bar.renew({ ...piece, start: 4000 }, 2010)
    bar.toggle()
    expect(played[2]!.url).toBe('/a?start=4000')
  })

  it('stays within the piece', () => {
    const bar = useListening()
    bar.play(piece, 99_999)
    expect(bar.position).toBe(9000)
    bar.play(piece, -5)
    expect(bar.position).toBe(1000)
  })
})
