import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'

vi.mock('../sound/player', () => ({ RATE: 44_100, Player: class {} }))
const { useMix } = await import('./mix')
const { useMarks } = await import('./marks')

function open(id: string, offset = 100) {
  const entries = [
    { id: 'a', start_s: 0, end_s: 60, clock: 0, offset: 0 },
    { id: 'b', start_s: 50, end_s: 200, clock: 0, offset },
  ]
  useMix().mix = {
    id,
    version: 1,
    plan: { clocks: [{ origin_beat: 0, tempo: [[0, 120]] }], entries },
  } as never
}

describe('places to come back to', () => {
  beforeEach(() => {
    localStorage.clear()
    setActivePinia(createPinia())
    open('m')
  })

  it('are kept by mix, in the order of the music', async () => {
    const marks = useMarks()
    marks.add(90)
    marks.add(20)
    expect(marks.marks.map((m) => m.seconds)).toEqual([20, 90])
    open('n')
    await nextTick()
    expect(marks.marks).toEqual([])
    marks.add(5)
    open('m')
    await nextTick()
    expect(marks.marks).toHaveLength(2)
  })

  it('stay on their beat when the mix is changed, and go with their track', () => {
    const marks = useMarks()
    marks.add(90)
    open('m', 120)
    expect(marks.marks.map((m) => m.seconds)).toEqual([100])
    const mix = useMix()
    mix.mix = { ...mix.mix!, plan: { ...mix.mix!.plan, entries: mix.mix!.plan.entries.slice(0, 1) } }
    expect(marks.marks).toEqual([])
  })

  it('are forgotten one by one, and none lies where nothing sounds', () => {
    const marks = useMarks()
    marks.add(900)
    marks.add(10)
    marks.add(30)
    marks.remove(marks.marks[0]!.mark)
    expect(marks.marks.map((m) => m.seconds)).toEqual([30])
  })
})
