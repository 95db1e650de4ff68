import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, ref } from 'vue'
import type { Command, PlannedTransition } from '../../api/types'
import { pretendServer } from '../../tests/server'

const { calls, answers, client } = await vi.hoisted(
  async () => (await import('../../tests/server')).pretendServer() as ReturnType<typeof pretendServer>,
)
vi.mock('../../api/client', () => client)
const { useNudge } = await import('./useNudge')
const { listenForKeys } = await import('../page/useKeys')

function nudging(ms = 0, answer: () => Promise<boolean> = () => Promise.resolve(true)) {
  let nudge!: ReturnType<typeof useNudge>
  const sent: Command[] = []
  const planned = ref({ transition: { out_id: 'a', in_id: 'b', nudge_ms: ms } } as PlannedTransition)
  const slid = ref({ trackId: 't', title: 'T', speed: 0.5 })
  const wrapper = mount(
    defineComponent({
      setup() {
        listenForKeys()
        nudge = useNudge(planned, slid, (command) => {
          sent.push(command)
          return answer()
        })
        return () => null
      },
    }),
  )
  return { nudge, sent, wrapper }
}
const press = (key: string, shiftKey = false) =>
  window.dispatchEvent(new KeyboardEvent('keydown', { key, shiftKey }))

describe('the incoming against the click', () => {
  beforeEach(() => void vi.useFakeTimers())

  it('is moved by keys, and sent once they rest', async () => {
    const { nudge, sent, wrapper } = nudging(3)
    press('.')
    press('.')
    press('<', true)
    expect(nudge.ms.value).toBe(-5)
    expect(sent).toEqual([])
    await vi.advanceTimersByTimeAsync(500)
    expect(sent).toEqual([{ kind: 'set_nudge', out_id: 'a', in_id: 'b', ms: -5 }])
    wrapper.unmount()
  })

  it('loses nothing that is pressed while a step is on its way', async () => {
    let arrive!: (done: boolean) => void
    const { nudge, sent, wrapper } = nudging(0, () => new Promise((done) => (arrive = done)))
    press('.')
    await vi.advanceTimersByTimeAsync(500)
    press('.')
    press('.')
    arrive(true)
    await vi.advanceTimersByTimeAsync(500)
    expect(nudge.ms.value).toBe(3)
    expect(sent.map((command) => 'ms' in command && command.ms)).toEqual([1, 3])
    wrapper.unmount()
  })

  it('becomes a slide of the grid the other way, in seconds of the file', async () => {
    const { nudge, sent, wrapper } = nudging(12)
    answers.push({ version: 7 }, {})
    await nudge.keepInGrid()
    expect(calls.at(-1)?.body).toEqual({ version: 7, command: { kind: 'slide', by_s: -0.006 } })
    expect(sent).toEqual([{ kind: 'set_nudge', out_id: 'a', in_id: 'b', ms: 0 }])
    wrapper.unmount()
  })
})
