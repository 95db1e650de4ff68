import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { api, data, filesIn } from '../../api/client'
import type { RenderWish } from '../../api/types'

/** The renders of a mix. While one is under way the server's news brings each step. */
export function useRenders(mixId: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ['renders', mixId.value]),
    queryFn: () =>
      data(api.GET('/api/mixes/{mix_id}/renders', { params: { path: { mix_id: mixId.value } } })),
    staleTime: Infinity,
  })
}

/** About how many seconds of a mix each kind of file takes in one, as it went here. */
export function usePaces() {
  return useQuery({ queryKey: ['render-paces'], queryFn: () => data(api.GET('/api/render-paces')) })
}

/** The picture of a mix: one's own, or the one that is made of its course. */
export function useCover(mixId: Ref<string>) {
  const client = useQueryClient()
  const changed = ref(0)
  const path = () => ({ params: { path: { mix_id: mixId.value } } })
  const { data: origin } = useQuery({
    queryKey: computed(() => ['cover', mixId.value]),
    queryFn: () => data(api.GET('/api/mixes/{mix_id}/cover/origin', path())),
  })
  async function renew() {
    changed.value++
    await client.invalidateQueries({ queryKey: ['cover', mixId.value] })
  }
  return {
    changed,
    isOwn: computed(() => origin.value?.is_own ?? false),
    async choose(picture: File) {
      await data(api.PUT('/api/mixes/{mix_id}/cover', { ...path(), ...filesIn([['file', picture]]) }))
      await renew()
    },
    async drop() {
      await data(api.DELETE('/api/mixes/{mix_id}/cover', path()))
      await renew()
    },
  }
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
