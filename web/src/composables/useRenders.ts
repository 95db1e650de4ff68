import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../api/client'
import type { RenderWish } from '../api/types'

/** The renders of a mix. While one is under way the server's news brings each step. */
export function useRenders(mixId: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ['renders', mixId.value]),
    queryFn: () =>
      data(api.GET('/api/mixes/{mix_id}/renders', { params: { path: { mix_id: mixId.value } } })),
    staleTime: Infinity,
  })
}

/** What can be done to renders. */
export function useRenderActions(mixId: Ref<string>) {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: ['renders', mixId.value] })
  return {
    async start(wish: RenderWish) {
      await data(
        api.POST('/api/mixes/{mix_id}/renders', {
          params: { path: { mix_id: mixId.value } },
          body: wish,
        }),
      )
      await refresh()
    },
    async cancel(id: string) {
      await data(api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: id } } }))
      await refresh()
    },
    async retry(id: string) {
      await data(api.POST('/api/jobs/{job_id}/retry', { params: { path: { job_id: id } } }))
      await refresh()
    },
    async remove(id: string) {
      await data(api.DELETE('/api/renders/{render_id}', { params: { path: { render_id: id } } }))
      await refresh()
    },
  }
}
