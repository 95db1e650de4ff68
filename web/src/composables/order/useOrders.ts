import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'
import type { Wishes } from '../../api/types'

/** From where tracks may come in: what a search means, of a list where one is named. */
export interface LibraryPart {
  search: string
  list_id: string | null
}

/** The last search for orders of a mix. While one is under way the server's news brings each step. */
export function useOrders(mixId: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ['orders', mixId.value]),
    queryFn: () => data(api.GET('/api/mixes/{mix_id}/orders', { params: { path: { mix_id: mixId.value } } })),
    staleTime: Infinity,
    shallow: true,
  })
}

/** What can be done about searches for orders. */
export function useOrderActions(mixId: Ref<string>) {
  const client = useQueryClient()
  const key = () => ['orders', mixId.value]
  return {
    async find(wishes: Wishes, library: LibraryPart | null) {
      const params = { path: { mix_id: mixId.value } }
      client.setQueryData(
        key(),
        await data(api.POST('/api/mixes/{mix_id}/orders', { params, body: { wishes, library } })),
      )
      await client.invalidateQueries({ queryKey: key() })
    },
    async cancel(jobId: string) {
      await data(api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: jobId } } }))
      await client.invalidateQueries({ queryKey: key() })
    },
  }
}

/** What could be done about the jump after an entry, of the mix as it is at a version. */
export function useJump(
  mixId: Ref<string>,
  version: Ref<number | undefined>,
  entryId: Ref<string | undefined>,
  search: Ref<string>,
  list: Ref<string | undefined>,
) {
  return useQuery({
    queryKey: computed(() => [
      'tracks',
      'jump',
      mixId.value,
      version.value,
      entryId.value,
      search.value,
      list.value,
    ]),
    queryFn: () =>
      data(
        api.GET('/api/mixes/{mix_id}/jumps/{entry_id}', {
          params: {
            path: { mix_id: mixId.value, entry_id: entryId.value! },
            query: { search: search.value, list_id: list.value },
          },
        }),
      ),
    enabled: computed(() => entryId.value !== undefined),
    staleTime: Infinity,
    retry: false,
    shallow: true,
  })
}
