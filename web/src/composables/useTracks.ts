import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, data } from '../api/client'

const KEY = ['tracks']

/** All tracks of the library, newest first. */
export function useTracks() {
  return useQuery({ queryKey: KEY, queryFn: () => data(api.GET('/api/tracks')), staleTime: Infinity })
}

/** What can be done to tracks. */
export function useTrackActions() {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: KEY })
  return {
    refresh,
    async remove(id: string) {
      await data(api.DELETE('/api/tracks/{track_id}', { params: { path: { track_id: id } } }))
      await refresh()
    },
    async analyse(id: string) {
      await data(api.POST('/api/tracks/{track_id}/analyse', { params: { path: { track_id: id } } }))
      await refresh()
    },
    async cancel(jobId: string) {
      await data(api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: jobId } } }))
      await refresh()
    },
  }
}
