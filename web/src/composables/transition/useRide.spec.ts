import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, ref } from 'vue'
import type { Command, PlannedTransition, Side } from '../../api/types'
import { heard, turn } from '../../sound/controller'
import { level } from '../../time/curve'
import { ON_SCREEN, useRide } from './useRide'

const frames: FrameRequestCallback[] = []
vi.stubGlobal('requestAnimationFrame', (run: FrameRequestCallback) => frames.push(run))
vi.stubGlobal('cancelAnimationFrame', () => undefined)

let place: number | undefined
let sent: Command[]

function riding() {
  let ride!: ReturnType<typeof useRide>
  const planned = ref({ transition: { out_id: 'a', in_id: 'b' } } as PlannedTransition)
  const editing = { shown: () => level(1) }
  const send = (command: Command) => {
    sent.push(command)
    return Promise.resolve(true)
  }
  const wrapper = mount(
    defineComponent({
      setup() {
        ride = useRide(planned, editing, (side: Side) => (side === 'outgoing' ? place : undefined), send)
        return () => null
      },
    }),
  )
  return { ride, wrapper, planned }
}

/** A frame is drawn at a place in the overlap. */
function frame(at: number | undefined) {
  place = at
  for (const run of frames.splice(0)) run(0)
}

describe('a ride', () => {
  beforeEach(() => {
    localStorage.clear()
    frames.length = 0
    sent = []
    place = undefined
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  })

  it('is what was moved from the first move to the release, at the places where it was heard', () => {
    const { ride, wrapper } = riding()
    frame(0.2)
    ride.press()
    ride.move('outgoing', 0.8)
    frame(0.21)
    ride.move('outgoing', 0.5)
    frame(0.22)
    frame(0.23)
    window.dispatchEvent(new Event('pointerup'))
    expect(sent).toEqual([
      {
        kind: 'record_ride', out_id: 'a', in_id: 'b', side: 'outgoing', control: 'volume',
        moves: [[0.2, 1], [0.21, 0.8], [0.22, 0.5], [0.23, 0.5]],
      },
    ]) // prettier-ignore
    wrapper.unmount()
  })

  it('stays with the transition and the control that it began on, wherever one goes meanwhile', () => {
    const { ride, wrapper, planned } = riding()
    frame(0.2)
    ride.move('outgoing', 0.5)
    frame(0.3)
    planned.value = { transition: { out_id: 'b', in_id: 'c' } } as PlannedTransition
    ride.control.value = 'mid'
    vi.advanceTimersByTime(700)
    expect(sent).toMatchObject([{ out_id: 'a', in_id: 'b', control: 'volume' }])
    wrapper.unmount()
  })

  it('of a controller that tells of no release ends a little after its last move', () => {
    const { wrapper } = riding()
    frame(0.4)
    heard(new Uint8Array([0xb3, ON_SCREEN.outgoing, 0]))
    frame(0.41)
    frame(0.42)
    vi.advanceTimersByTime(700)
    expect(sent).toMatchObject([{ moves: [[0.4, 1], [0.41, 0], [0.42, 0]] }]) // prettier-ignore
    wrapper.unmount()
  })

  it('is none outside the overlap, nor of a control that nobody has learnt', () => {
    const { ride, wrapper } = riding()
    frame(undefined)
    ride.move('outgoing', 0.2)
    frame(undefined)
    turn(74, 0.1)
    heard(new Uint8Array([0x90, ON_SCREEN.outgoing, 100]))
    vi.advanceTimersByTime(700)
    expect(sent).toEqual([])
    ride.learning.value = 'outgoing'
    turn(74, 0.4)
    frame(0.5)
    frame(0.51)
    turn(74, 0.3)
    vi.advanceTimersByTime(700)
    expect(sent).toMatchObject([{ side: 'outgoing' }])
    wrapper.unmount()
  })
})
