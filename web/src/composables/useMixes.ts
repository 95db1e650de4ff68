import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, data } from '../api/client'

const KEY = ['mixes']

/** All mixes, the last changed first. */
export function useMixes() {
  return useQuery({ queryKey: KEY, queryFn: () => data(api.GET('/api/mixes')), staleTime: Infinity })
}

/** What can be done to mixes as wholes. */
export function useMixActions() {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: KEY })
  const path = (id: string) => ({ params: { path: { mix_id: id } } })
  return {
    async create(name: string) {
      const mix = await data(api.POST('/api/mixes', { body: { name } }))
      await refresh()
      return mix
    },
    async duplicate(id: string) {
      const mix = await data(api.POST('/api/mixes/{mix_id}/duplicate', path(id)))
      await refresh()
      return mix
    },
    async remove(id: string) {
      await data(api.DELETE('/api/mixes/{mix_id}', path(id)))
      await refresh()
    },
  }
}
