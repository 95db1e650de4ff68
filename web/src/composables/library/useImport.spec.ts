import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { useImport } from './useImport'

/** A request that the test answers. */
class FakeRequest {
  static all: FakeRequest[] = []
  upload: { onprogress?: (e: { loaded: number; total: number }) => void } = {}
  onload?: () => void
  onerror?: () => void
  status = 0
  response: unknown
  responseType = ''
  file?: File
  open = () => undefined
  send(form: FormData) {
    this.file = form.get('file') as File
    FakeRequest.all.push(this)
  }
  answer(status: number, response: unknown) {
    Object.assign(this, { status, response })
    this.onload!()
    return flushPromises()
  }
}

describe('files on their way in', () => {
  const arriving = useImport()

  beforeEach(() => {
    FakeRequest.all = []
    vi.stubGlobal('XMLHttpRequest', FakeRequest)
    arriving.clear()
  })

  const file = (name: string) => new File(['x'], name)
  const came = (known: boolean) => ({ known, track: { id: 't' }, brought: 'nothing' })

  it('are sent one after the other, each with its own outcome', async () => {
    arriving.add([file('a.wav'), file('b.wav'), file('c.txt')])
    expect(FakeRequest.all.map((r) => r.file!.name)).toEqual(['a.wav'])
    FakeRequest.all[0]!.upload.onprogress!({ loaded: 1, total: 4 })
    expect(arriving.arrivals.value[0]).toMatchObject({ state: 'sending', share: 0.25 })
    await FakeRequest.all[0]!.answer(201, came(false))
    await FakeRequest.all[1]!.answer(201, came(true))
    expect(arriving.isBusy.value).toBe(true)
    await FakeRequest.all[2]!.answer(422, { detail: '‘c.txt’ is no audio.' })
    expect(arriving.arrivals.value.map((a) => [a.state, a.reason])).toEqual([
      ['done', ''],
      ['known', ''],
      ['refused', '‘c.txt’ is no audio.'],
    ])
    expect(arriving.isBusy.value).toBe(false)
  })

  it('join the queue while others are sent', async () => {
    arriving.add([file('a.wav')])
    arriving.add([file('b.wav')])
    expect(FakeRequest.all).toHaveLength(1)
    await FakeRequest.all[0]!.answer(201, came(false))
    expect(FakeRequest.all.map((r) => r.file!.name)).toEqual(['a.wav', 'b.wav'])
    await FakeRequest.all[1]!.answer(201, came(false))
  })

  it('that cannot be sent say so, and the next goes on', async () => {
    arriving.add([file('a.wav'), file('b.wav')])
    FakeRequest.all[0]!.onerror!()
    await flushPromises()
    expect(arriving.arrivals.value[0]!.reason).toContain('does not answer')
    await FakeRequest.all[1]!.answer(201, came(false))
    expect(arriving.arrivals.value[1]!.state).toBe('done')
  })

  it('are forgotten when new ones come after all have ended', async () => {
    arriving.add([file('a.wav')])
    await FakeRequest.all[0]!.answer(201, came(false))
    arriving.add([file('b.wav')])
    expect(arriving.arrivals.value.map((a) => a.name)).toEqual(['b.wav'])
    await FakeRequest.all[1]!.answer(201, came(false))
  })
})
