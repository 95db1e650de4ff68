import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Curve, Entry, VoiceSpan } from '../../api/types'
import type { SeamViewport } from '../../composables/transition/useSeamView'
import type { TransitionSide } from '../../time/transitionSide'
import { level } from '../../time/curve'
import { EntryClock } from '../../time/entryClock'
import VoiceLane from './VoiceLane.vue'

const view = { xOf: (beat: number) => beat * 10 } as unknown as SeamViewport

function side(title: string, index: number, offset: number, voice: VoiceSpan[], count = 1): TransitionSide {
  const entry = { title, index, offset, count } as Entry
  const clock = EntryClock.of(entry, undefined)
  return {
    entry,
    clock,
    voice: voice.flatMap((v) => clock.spansOf(v.start, v.end)),
    cues: [],
    suggested: [],
    catches: [],
  }
}

function lane(out: VoiceSpan[], into: VoiceSpan[], incomingOffset = 100, count = 1, arriving = level(1)) {
  const props = {
    view,
    outgoing: side('Moss', 0, 0, out),
    incoming: side('Fern', 1, incomingOffset, into, count),
    start: 100,
    end: 132,
    width: 2000,
    height: 24,
    voices: { outgoing: level(1), incoming: arriving },
  }
  const wrapper = mount(VoiceLane, { props })
  const boxes = (selector: string) =>
    wrapper.findAll(selector).map((r) => [Number(r.attributes('x')), Number(r.attributes('width'))])
  return { sung: boxes('rect:not(.clash)'), clashes: boxes('.clash') }
}

describe('the voices of a transition', () => {
  it('lie where each side is heard: the outgoing until the overlap ends, the incoming from its start', () => {
    const { sung } = lane([{ start: 90, end: 110 }, { start: 128, end: 140 }], [{ start: -8, end: 4 }]) // prettier-ignore
    expect(sung).toEqual([
      [900, 200],
      [1280, 40],
      [1000, 40],
    ])
  })

  it('clash where both sing, and not where they take turns', () => {
    expect(lane([{ start: 104, end: 112 }], [{ start: 8, end: 20 }]).clashes).toEqual([[1080, 40]])
    expect(lane([{ start: 104, end: 108 }], [{ start: 8, end: 20 }]).clashes).toEqual([])
  })

  it('do not clash where one of them is turned down', () => {
    const waits: Curve = [[0, 0, 'straight'], [0.4, 0, 'straight'], [0.5, 1, 'straight'], [1, 1, 'straight']] // prettier-ignore
    const [out, into] = [[{ start: 104, end: 112 }, { start: 124, end: 130 }], [{ start: 0, end: 32 }]] // prettier-ignore
    expect(lane(out, into, 100, 1, waits).clashes).toEqual([[1240, 60]])
  })

  it('are counted in the track’s own beats, of which two may be one of the mix', () => {
    expect(lane([], [{ start: 8, end: 16 }], 100, 0.5).sung).toEqual([[1040, 40]])
  })

  it('go along while the incoming track is dragged', () => {
    expect(lane([{ start: 104, end: 112 }], [{ start: 8, end: 20 }], 104).clashes).toEqual([])
  })
})
