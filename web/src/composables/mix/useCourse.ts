import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'

/** The course of a mix in so many columns; `state` says which state of the mix is meant. What was there before stays while a newer one is fetched. */
export function useCourse(
  mixId: Ref<string | undefined>,
  state: Ref<number | string | undefined>,
  columns: number,
) {
  return useQuery({
    queryKey: computed(() => ['course', mixId.value, state.value, columns]),
    queryFn: () =>
      data(
        api.GET('/api/mixes/{mix_id}/course', {
          params: { path: { mix_id: mixId.value! }, query: { columns } },
        }),
      ),
    enabled: computed(() => mixId.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    shallow: true,
  })
}
