import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'
import type { PublishWish } from '../../api/types'
import { attempt } from '../page/attempt'

/** What was published of a mix, and publishing its files. */
export function usePublishing(mixId: Ref<string>) {
  const client = useQueryClient()
  const { data: host } = useQuery({ queryKey: ['publishing-host'], queryFn: () => data(api.GET('/api/publishing-host')) }) // prettier-ignore
  const { data: published } = useQuery({
    queryKey: computed(() => ['published', mixId.value]),
    queryFn: () =>
      data(api.GET('/api/mixes/{mix_id}/published', { params: { path: { mix_id: mixId.value } } })),
  })
  const look = () =>
    Promise.all([
      client.invalidateQueries({ queryKey: ['published', mixId.value] }),
      client.invalidateQueries({ queryKey: ['publishing-host'] }),
    ])
  const then = (work: () => Promise<unknown>) =>
    attempt(async () => {
      await work()
      await look()
    })
  const job = (job_id: string) => ({ params: { path: { job_id } } })
  return {
    host,
    of: (render: string) => published.value?.filter((p) => p.render_id === render) ?? [],
    publish: (render_id: string, wish: PublishWish) =>
      then(() =>
        data(api.POST('/api/renders/{render_id}/publish', { params: { path: { render_id } }, body: wish })),
      ),
    cancel: (id: string) => then(() => data(api.POST('/api/jobs/{job_id}/cancel', job(id)))),
    retry: (id: string) => then(() => data(api.POST('/api/jobs/{job_id}/retry', job(id)))),
    forget: (id: string) =>
      then(() =>
        data(api.DELETE('/api/published/{published_id}', { params: { path: { published_id: id } } })),
      ),
    forgetToken: () => then(() => data(api.DELETE('/api/publishing-host'))),
  }
}
