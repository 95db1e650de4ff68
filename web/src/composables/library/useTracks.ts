import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'
import { rowsOf } from '../../library/trackTable'

const KEY = ['tracks']

/** All tracks of the library, newest first, one object a track. Shallow: ten thousand of them are not watched each. */
export function useTracks() {
  return useQuery({
    queryKey: KEY,
    queryFn: async () => rowsOf(await data(api.GET('/api/tracks'))),
    staleTime: Infinity,
    structuralSharing: false,
    shallow: true,
  })
}

/** One track with all that is known of it, its doubts with their places included. */
export function useTrack(id: Ref<string>) {
  return useQuery({
    queryKey: computed(() => [...KEY, id.value]),
    queryFn: () => data(api.GET('/api/tracks/{track_id}', { params: { path: { track_id: id.value } } })),
    enabled: computed(() => !!id.value),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
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
    async show(id: string) {
      await data(api.POST('/api/tracks/{track_id}/file/show', { params: { path: { track_id: id } } }))
    },
    async cancel(jobId: string) {
      await data(api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: jobId } } }))
      await refresh()
    },
  }
}
