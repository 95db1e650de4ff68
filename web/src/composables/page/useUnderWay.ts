import { useQuery } from '@tanstack/vue-query'
import { api, data } from '../../api/client'

/** What Fernbrook is busy with of its own accord, such as making the demo; the news say when to look again. */
export function useUnderWay() {
  return useQuery({
    queryKey: ['under-way'],
    queryFn: () => data(api.GET('/api/under-way')),
    staleTime: Infinity,
  })
}
