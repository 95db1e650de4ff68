import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Command } from '../../api/types'
import type { Piece } from '../../sound/piece'

const server = await vi.hoisted(async () => (await import('../../tests/server')).pretendServer())
const played: Piece[] = []
const told: string[] = []
const open = { id: 'm', version: 1 }

vi.mock('ant-design-vue', () => ({ message: { error: (m: { content: string }) => told.push(m.content) } }))
vi.mock('../../api/client', () => server.client)
vi.mock('../../stores/mix', () => ({ useMix: () => ({ mix: open }) }))
vi.mock('../../stores/listening', () => ({ useListening: () => ({ play: (p: Piece) => played.push(p) }) }))

const { ApiError } = await import('../../api/client')
const { useTrials } = await import('./useTrials')

const command: Command = { kind: 'set_key_shift', entry_id: 'e1', semitones: -1 }
const trial = (id: string) => ({
  id,
  plan: {
    frames: 10_000_000,
    clocks: [{ origin_beat: 0, tempo: [[0, 120]] }],
    entries: [{ title: 'A' }, { title: 'B' }, { title: 'C' }],
    transitions: [0, 1].map((index) => ({
      index,
      start_beat: 64 + 100 * index,
      end_beat: 80 + 100 * index,
      transition: { outgoing: 0, incoming: 0, manner: 0 },
    })),
    sides: [{}],
    manners: [{}],
  },
})

describe('hearing what a command would make of the mix', () => {
  beforeEach(() => {
    played.length = told.length = server.calls.length = server.answers.length = 0
    open.version = 1
  })

  it('plays the transition of the trial, and asks for a trial once for each state of the mix', async () => {
    const { hear } = useTrials()
    server.answers.push(trial('t1'))
    await hear(command, 1)
    await hear(command, 0)
    expect(server.calls).toHaveLength(1)
    expect(played.map((p) => p.label)).toEqual(['B → C', 'A → B'])
    expect(played[0]!.start).toBe((156 / 2) * 44_100)
    expect(played[0]!.url(5)).toContain('/api/mixes/m/audio?start=5&')
    expect(played[0]!.url(5)).toContain('&trial=t1')
    expect(played[0]!.id).not.toBe('m')
    open.version = 2
    server.answers.push(trial('t2'))
    await hear(command, 0)
    expect(played[2]!.url(0)).toContain('&trial=t2')
  })

  it('tells why a command cannot be tried, and tries again when asked again', async () => {
    const { hear } = useTrials()
    server.answers.push(new ApiError('That entry is not in the mix any more.', 409), trial('t1'))
    await hear(command, 0)
    expect(told).toEqual(['That entry is not in the mix any more.'])
    await hear(command, 0)
    expect(played).toHaveLength(1)
  })
})
