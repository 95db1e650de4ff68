import { useQueryClient } from '@tanstack/vue-query'
import { useEventSource } from '@vueuse/core'
import { watch } from 'vue'
import { useMix } from '../stores/mix'

type News =
  | { type: 'hello' }
  | { type: 'tracks' }
  | { type: 'mixes' }
  | { type: 'mix'; id: string; version: number | null }
  | { type: 'job'; kind: 'analyse' | 'render'; subject: string; state: string }

/** Listen to the server's news and have what changed looked at again. Returns the state of the line. */
export function useNews() {
  const client = useQueryClient()
  const mix = useMix()
  const { data, status } = useEventSource('/api/news', [], { autoReconnect: { delay: 1500 } })

  let lostBefore = false
  watch(data, (text) => {
    if (!text) return
    const news = JSON.parse(text) as News
    if (news.type === 'hello' && lostBefore) {
      void client.invalidateQueries()
      if (mix.mix) void mix.open(mix.mix.id)
    }
    if (news.type === 'tracks' || (news.type === 'job' && news.kind === 'analyse')) {
      void client.invalidateQueries({ queryKey: ['tracks'] })
      if (news.type === 'tracks' && mix.mix) void mix.open(mix.mix.id)
    }
    if (news.type === 'job' && news.kind === 'render')
      void client.invalidateQueries({ queryKey: ['renders', news.subject] })
    if (news.type === 'mixes' || news.type === 'mix') void client.invalidateQueries({ queryKey: ['mixes'] })
    if (news.type === 'mix') void mix.heard(news.id, news.version)
  })
  watch(status, (now) => {
    if (now === 'CLOSED') lostBefore = true
  })
  return status
}
