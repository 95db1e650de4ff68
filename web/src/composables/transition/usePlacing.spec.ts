import { describe, expect, it, vi } from 'vitest'
import { BarLines } from '../../time/barLines'
import { ref, shallowRef } from 'vue'
import type { PlannedTransition } from '../../api/types'
import { settleAll } from '../../stores/resting'
import { usePlacing, type Snap } from './usePlacing'

const FOURS = { bar: 4, bars: BarLines.every(4) }

function placing(snap: Snap = 'bar', shape: object = {}, pace = { outBpm: 120, scale: 1 }) {
  const planned = ref({
    index: 0,
    transition: {
      out_id: 'a',
      in_id: 'b',
      kind: 'blend',
      out_at: 320,
      in_at: 8,
      beats: 64,
      lead: 0,
      seconds: 0,
      ...shape,
    },
    room: { out_from: 100, out_to: 400, in_from: 0, in_to: 90 },
  } as unknown as PlannedTransition)
  const send = vi.fn().mockResolvedValue(true)
  return {
    send,
    ...usePlacing(
      planned,
      ref({ mixBeat: (beat: number) => beat + 1000 }),
      shallowRef({ outgoing: FOURS, incoming: FOURS }),
      ref(snap),
      send,
      ref({ outgoing: [{ beat: 309.5, name: 'break' }], incoming: [{ beat: 70, name: 'voice' }] }),
      ref(pace),
    ),
  }
}

describe('a transition that is dragged', () => {
  it('moves with its incoming track and snaps to bars', () => {
    const p = placing()
    p.drag('body', -13.2)
    expect(p.place.value).toEqual({ outAt: 308, inAt: 8, beats: 64, lead: 0 })
    expect(p.start.value).toBe(1308)
    expect(p.incomingOffset.value).toBe(1300)
  })

  it('keeps its end when its start is moved', () => {
    const p = placing('beat')
    p.drag('start', 10.4)
    expect(p.place.value).toEqual({ outAt: 330, inAt: 8, beats: 54, lead: 0 })
  })

  it('never leaves its room', () => {
    const p = placing()
    p.drag('end', 500)
    expect(p.place.value.beats).toBe(80)
    p.drag('start', -500)
    expect(p.place.value).toEqual({ outAt: 302, inAt: 8, beats: 82, lead: 0 })
    p.drag('body', 500)
    expect(p.place.value.outAt).toBe(336)
    p.drag('incoming', 500)
    expect(p.place.value.inAt).toBe(0)
  })

  it('sends only what has changed, and nothing when nothing has', async () => {
    const p = placing()
    p.drag('incoming', -4)
    await p.drop()
    expect(p.send).toHaveBeenCalledWith({ kind: 'place_transition', out_id: 'a', in_id: 'b', out_at: null, in_at: 12, beats: null, seconds: null, lead: null }) // prettier-ignore
    p.send.mockClear()
    await p.put({ inAt: 8 })
    expect(p.send).not.toHaveBeenCalled()
  })

  it('goes back when it was refused', async () => {
    const p = placing()
    p.send.mockResolvedValue(false)
    p.drag('body', -40)
    await p.drop()
    expect(p.place.value.outAt).toBe(320)
  })

  it('catches on a cue of the side that is dragged, and names it', () => {
    const p = placing()
    p.drag('start', -10.2, 1)
    expect([p.place.value.outAt, p.caught.value]).toEqual([309.5, 'break'])
    p.drag('start', -14, 1)
    expect([p.place.value.outAt, p.caught.value]).toEqual([308, undefined])
    // The end catches on where the incoming's voice enters: beat 70 of it lies 62 after the start.
    p.drag('end', -1.6, 1)
    expect([p.place.value.beats, p.caught.value]).toEqual([62, 'voice'])
    // Slid, the same cue comes to lie on the end of the overlap.
    p.drag('incoming', 1.7, 1)
    expect([p.place.value.inAt, p.caught.value]).toEqual([6, 'voice'])
  })
})

describe('a transition of another kind that is dragged', () => {
  it('as a fade is sent in seconds, and lies at the pace of the outgoing', async () => {
    const p = placing('none', { kind: 'fade', beats: 0, seconds: 8 }, { outBpm: 90, scale: 0.75 })
    expect([p.start.value, p.end.value]).toEqual([1320, 1332])
    expect(p.incomingOffset.value).toBe(1320 - 8 * 0.75)
    p.drag('end', 3)
    await p.drop()
    expect(p.send).toHaveBeenCalledWith(expect.objectContaining({ beats: null, seconds: 10, out_at: null }))
    p.drag('incoming', 3)
    expect(p.place.value.inAt).toBe(4)
  })

  it('apart has a pause as long as one likes', () => {
    const p = placing('none', { kind: 'apart', beats: 0, seconds: 1 })
    p.drag('end', 500)
    expect(p.place.value.beats).toBe(502)
    expect(p.incomingOffset.value).toBe(p.end.value - 8)
    p.drag('end', -500)
    expect(p.place.value.beats).toBe(0)
  })

  it('as a cut has a lead, which stays with it', async () => {
    const p = placing('bar', { kind: 'cut', beats: 0, lead: 8 })
    expect(p.leads.value).toBe(1312)
    p.drag('lead', -8.2)
    await p.drop()
    expect(p.send).toHaveBeenCalledWith(expect.objectContaining({ lead: 16, out_at: null }))
    p.drag('body', -300)
    expect(p.place.value.outAt).toBe(108)
  })
})

describe('an edge that is moved by keys', () => {
  it('counts each press from what is shown, and sends one step', async () => {
    const p = placing()
    for (let i = 0; i < 4; i++) p.nudge('end', 1)
    expect(p.place.value.beats).toBe(80)
    expect(p.send).not.toHaveBeenCalled()
    await settleAll()
    expect(p.send.mock.calls.map(([command]) => command.beats)).toEqual([80])
  })

  it('goes back while its change is on its way', async () => {
    const p = placing()
    let arrive!: (done: boolean) => void
    p.send.mockImplementationOnce(() => new Promise((done) => (arrive = done)))
    p.nudge('end', 1)
    const first = settleAll()
    p.nudge('end', -1)
    expect(p.place.value.beats).toBe(64)
    await settleAll()
    arrive(true)
    await first
    expect(p.send.mock.calls.map(([command]) => command.beats)).toEqual([68, 64])
  })
})
