import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Heard } from '../../sound/pieces'
import type { Piece } from '../../sound/piece'
import { useHold } from './useHold'

const listening = vi.hoisted(() => ({
  isSounding: false,
  state: 'playing',
  piece: undefined as Piece | undefined,
  position: 480,
  play: vi.fn(),
  renew: vi.fn(),
  stop: vi.fn(),
}))
vi.mock('../../stores/listening', () => ({ useListening: () => listening }))

const pieceOf = (heard: Heard) =>
  ({ id: 'mix', transition: 2, url: (from: number) => `${heard}@${from}` }) as unknown as Piece
const urls = (calls: unknown[][]) => calls.map(([piece]) => (piece as Piece).url(0))

describe('hearing a side', () => {
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['performance'] })
    Object.assign(listening, { isSounding: false, piece: undefined, state: 'playing' })
    for (const f of [listening.play, listening.renew, listening.stop]) f.mockReset()
  })

  it('plays it, and goes over to another at the same place while it plays', () => {
    const hold = useHold(pieceOf)
    hold.press('both')
    hold.release()
    expect(urls(listening.play.mock.calls)).toEqual(['both@0'])
    Object.assign(listening, { isSounding: true, piece: pieceOf('both') })
    hold.press('incoming')
    hold.release()
    expect(listening.renew.mock.calls.map((c) => c[1] as number)).toEqual([480])
    expect(urls(listening.renew.mock.calls)).toEqual(['incoming@0'])
  })

  it('goes back when what was held is let go', () => {
    Object.assign(listening, { isSounding: true, piece: pieceOf('both') })
    const hold = useHold(pieceOf)
    hold.press('outgoing')
    vi.advanceTimersByTime(900)
    hold.release()
    expect(urls(listening.renew.mock.calls)).toEqual(['outgoing@0', 'both@0'])
  })

  it('begins again by a second press, and ends with a hold that began in silence', () => {
    Object.assign(listening, { isSounding: true, piece: pieceOf('both') })
    const hold = useHold(pieceOf)
    hold.press('both')
    hold.release()
    expect(urls(listening.play.mock.calls)).toEqual(['both@0'])
    Object.assign(listening, { isSounding: false, piece: undefined })
    hold.press('both')
    vi.advanceTimersByTime(900)
    hold.release()
    expect(listening.stop).toHaveBeenCalledOnce()
  })

  it('plays on when it is let go before anything was heard', () => {
    const hold = useHold(pieceOf)
    hold.press('both')
    listening.state = 'loading'
    vi.advanceTimersByTime(900)
    hold.release()
    expect(listening.stop).not.toHaveBeenCalled()
  })
})
