import { createGlobalState } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, asError, data } from '../../api/client'
import type { Imported, Problem } from '../../api/types'
import { useTempoRange } from '../page/preferences'

export interface Arrival {
  key: number
  name: string
  state: 'waiting' | 'sending' | 'done' | 'known' | 'refused'
  share: number
  reason: string
  /** The track that it became, and what its file brought of what was once set by hand. */
  track?: string
  brought?: Imported['brought']
}

/** Files on their way into the library: sent one after the other, each with its own outcome. */
export const useImport = createGlobalState(() => {
  const arrivals = ref<Arrival[]>([])
  const files = new Map<number, File>()
  const ends = new Map<number, (track?: string) => void>()
  let next = 1
  let busy = false

  const isBusy = computed(() => arrivals.value.some((a) => a.state === 'waiting' || a.state === 'sending'))

  /**
   * Take files in. Their content is sent in order; the page can be used meanwhile. Gives the tracks that they became,
   * or were already, when all have been sent.
   */
  async function add(list: Iterable<File>): Promise<string[]> {
    if (!isBusy.value) clear()
    const sent = [...list].map((file) => {
      const key = next++
      files.set(key, file)
      arrivals.value.push({ key, name: file.name, state: 'waiting', share: 0, reason: '' })
      return new Promise<string | undefined>((resolve) => ends.set(key, resolve))
    })
    void work()
    return (await Promise.all(sent)).filter((track) => track !== undefined)
  }

  async function work() {
    if (busy) return
    busy = true
    for (;;) {
      const arrival = arrivals.value.find((a) => a.state === 'waiting')
      if (!arrival) break
      arrival.state = 'sending'
      try {
        const imported = await send(files.get(arrival.key)!, (share) => (arrival.share = share))
        arrival.state = imported.known ? 'known' : 'done'
        arrival.track = imported.track.id
        arrival.brought = imported.brought
      } catch (error) {
        arrival.state = 'refused'
        arrival.reason = (error as Error).message
      }
      files.delete(arrival.key)
      ends.get(arrival.key)?.(arrival.track)
      ends.delete(arrival.key)
    }
    busy = false
  }

  /** Forget what has ended. */
  function clear() {
    arrivals.value = arrivals.value.filter((a) => a.state === 'waiting' || a.state === 'sending')
  }

  /** Take what a file brought, or keep what the library has. */
  async function decide(arrival: Arrival, take: boolean) {
    if (take)
      await data(
        api.POST('/api/tracks/{track_id}/file/take', { params: { path: { track_id: arrival.track! } } }),
      )
    arrival.brought = 'nothing'
  }

  return { arrivals, isBusy, add, clear, decide }
})

/** Send one file; XMLHttpRequest, because fetch cannot tell how much has been sent. */
function send(file: File, progress: (share: number) => void): Promise<Imported> {
  const { range } = useTempoRange()
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', '/api/tracks')
    request.responseType = 'json'
    request.upload.onprogress = (e) => progress(e.total ? e.loaded / e.total : 0)
    request.onload = () => {
      if (request.status < 300) resolve(request.response as Imported)
      else reject(asError(request.response as Problem | undefined, request.status))
    }
    request.onerror = () => reject(new Error('The file could not be sent: Fernbrook does not answer.'))
    const form = new FormData()
    form.append('file', file)
    form.append('tempo_low', String(range.value.low))
    form.append('tempo_high', String(range.value.high))
    request.send(form)
  })
}
