import { useQueryClient } from '@tanstack/vue-query'
import { tryOnScopeDispose } from '@vueuse/core'
import { ref } from 'vue'
import { useMarkup } from '../stores/markup'
import { useMix } from '../stores/mix'
import { forgetOnsets } from './useOnsets'

type News =
  | { type: 'hello' }
  | { type: 'tracks' }
  | { type: 'mixes' }
  | { type: 'track'; id: string; version: number }
  | { type: 'mix'; id: string; version: number | null }
  | { type: 'job'; kind: 'analyse' | 'render' | 'straighten'; subject: string; state: string }

export type Line = 'open' | 'connecting' | 'lost'

/** Where the jobs about a mix or a track are listed. */
const JOB_LISTS = { render: 'renders', straighten: 'straight' }
const TRY_AGAIN_MS = 1500

/** Listen to the server's news and have what changed looked at again. Returns the state of the line. */
export function useNews() {
  const client = useQueryClient()
  const mix = useMix()
  const markup = useMarkup()
  const line = ref<Line>('connecting')
  let source: EventSource
  let timer: ReturnType<typeof setTimeout> | undefined

  function connect() {
    source = new EventSource('/api/news')
    source.onmessage = ({ data }: MessageEvent<string>) => heard(JSON.parse(data) as News)
    source.onerror = () => {
      line.value = 'lost'
      source.close()
      timer = setTimeout(connect, TRY_AGAIN_MS)
    }
  }

  function heard(news: News) {
    switch (news.type) {
      case 'hello':
        if (line.value === 'lost') catchUp()
        line.value = 'open'
        break
      case 'tracks':
        look(['tracks'])
        if (mix.mix) void mix.open(mix.mix.id)
        break
      case 'track':
        void markup.heard(news.id, news.version)
        break
      case 'mixes':
        look(['mixes'])
        break
      case 'mix':
        look(['mixes'])
        void mix.heard(news.id, news.version)
        break
      case 'job':
        if (news.kind === 'analyse' && news.state === 'done') forgetOnsets(news.subject)
        look(news.kind === 'analyse' ? ['tracks'] : [JOB_LISTS[news.kind], news.subject])
    }
  }

  function look(queryKey: string[]) {
    void client.invalidateQueries({ queryKey })
  }

  /** After the line was lost anything may have changed. */
  function catchUp() {
    void client.invalidateQueries()
    if (mix.mix) void mix.open(mix.mix.id)
    if (markup.track) void markup.open(markup.track.id)
  }

  connect()
  tryOnScopeDispose(() => {
    clearTimeout(timer)
    source.close()
  })
  return line
}
