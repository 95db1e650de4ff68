import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, data } from '../../api/client'

export const MIXES = ['mixes']

/** All mixes, the last changed first; those of two tracks that are only tried are listed apart. */
export function useMixes() {
  const { data: all, ...query } = useQuery({
    queryKey: MIXES,
    queryFn: () => data(api.GET('/api/mixes')),
    staleTime: Infinity,
  })
  const mixes = computed(() => all.value?.filter((m) => !m.is_try))
  const tries = computed(() => all.value?.filter((m) => m.is_try) ?? [])
  return { ...query, data: mixes, tries }
}

/** What can be done to mixes as wholes. */
export function useMixActions() {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: MIXES })
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
