import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'
import type { OutputFormat } from '../../api/types'

/** The straightened renders of a track, and what can be done to them. */
export function useStraight(trackId: Ref<string>) {
  const client = useQueryClient()
  const queryKey = computed(() => ['straight', trackId.value])
  const list = useQuery({
    queryKey,
    queryFn: () =>
      data(api.GET('/api/tracks/{track_id}/straight', { params: { path: { track_id: trackId.value } } })),
  })
  const refresh = () => client.invalidateQueries({ queryKey: queryKey.value })
  const job = (id: string) => ({ params: { path: { job_id: id } } })
  return {
    list,
    refresh,
    async start(bpm: number, output: OutputFormat) {
      await data(
        api.POST('/api/tracks/{track_id}/straight', {
          params: { path: { track_id: trackId.value } },
          body: { bpm, output },
        }),
      )
      await refresh()
    },
    async cancel(id: string) {
      await data(api.POST('/api/jobs/{job_id}/cancel', job(id)))
      await refresh()
    },
    async remove(id: string) {
      await data(api.DELETE('/api/straight/{job_id}', job(id)))
      await refresh()
    },
    bringIn: (id: string) => data(api.POST('/api/straight/{job_id}/import', job(id))),
  }
}
