import { useQueryClient } from '@tanstack/vue-query'
import { useEventSource, useThrottleFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import { useMarkup } from '../../stores/markup'
import { useMix } from '../../stores/mix'
import { JOB_LISTS, toldOfJob } from './jobs'
import { forgetPictures } from '../../pictures/trackPictures'

type News =
  | { type: 'hello' }
  | { type: 'tracks' }
  | { type: 'mixes' }
  | { type: 'shapes' }
  | { type: 'history'; id: string }
  | { type: 'library' }
  | { type: 'under_way' }
  | { type: 'track'; id: string; version: number }
  | { type: 'mix'; id: string; version: number | null }
  | { type: 'job'; id: string; kind: string; subject: string; state: string }

export type Line = 'open' | 'connecting' | 'lost'

const TRY_AGAIN_MS = 1500
/** The list of tracks may be long: while analyses run it is looked at no more often. */
const LIST_EVERY_MS = 1000

/** Listen to the server's news and have what changed looked at again. Returns the state of the line. */
export function useNews() {
  const client = useQueryClient()
  const mix = useMix()
  const markup = useMarkup()
  const line = ref<Line>('connecting')

  const { data, status } = useEventSource('/api/news', [], {
    autoReconnect: { delay: TRY_AGAIN_MS },
    serializer: { read: (text) => JSON.parse(text!) as News },
  })
  // Each piece of news is an object of its own, heard as it comes: none is lost for being like the one before.
  watch(data, (news) => news && heard(news), { flush: 'sync' })
  watch(status, (now) => now === 'CLOSED' && (line.value = 'lost'), { flush: 'sync' })

  const lookAtTracks = useThrottleFn(() => look(['tracks']), LIST_EVERY_MS, true)

  function heard(news: News) {
    switch (news.type) {
      case 'hello':
        if (line.value === 'lost') catchUp()
        line.value = 'open'
        break
      case 'tracks':
        void lookAtTracks()
        break
      case 'library':
        look(['library'])
        break
      case 'under_way':
        look(['under-way'])
        break
      case 'track':
        void markup.heard(news.id, news.version)
        void mix.heardOfTrack(news.id, news.version)
        break
      case 'mixes':
        look(['mixes'])
        break
      case 'shapes':
        look(['shapes'])
        break
      case 'history':
        look(['history', news.id])
        break
      case 'mix':
        look(['mixes'])
        void mix.heard(news.id, news.version)
        break
      case 'job':
        void toldOfJob(news.id)
        // How many jobs there are tells how long one more takes.
        if (news.state !== 'running') look(['render-paces'])
        if (news.kind !== 'analyse') {
          const list = JOB_LISTS[news.kind]
          return list && look(list(news.subject))
        }
        if (news.state === 'done') {
          forgetPictures(news.subject)
          look(['course'])
        }
        void lookAtTracks()
    }
  }

  function look(queryKey: string[]) {
    void client.invalidateQueries({ queryKey })
  }

  /** After the line was lost anything may have changed. */
  function catchUp() {
    void client.invalidateQueries()
    void toldOfJob()
    if (mix.mix) void mix.open(mix.mix.id)
    if (markup.track) void markup.open(markup.track.id)
  }

  return line
}
