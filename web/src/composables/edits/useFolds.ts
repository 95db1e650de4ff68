import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'
import type { Entry } from '../../api/types'
import { useMix } from '../../stores/mix'

/** Where an entry can be made shorter, or longer, by so many bars; asked for again with each version of the mix. */
export function useFolds(entry: Ref<Entry | undefined>, bars: Ref<number>, longer: Ref<boolean>) {
  const mix = useMix()
  return useQuery({
    queryKey: computed(() => [
      'folds',
      mix.mix?.id,
      mix.mix?.version,
      entry.value?.id,
      bars.value,
      longer.value,
    ]),
    queryFn: () =>
      data(
        api.GET('/api/mixes/{mix_id}/entries/{entry_id}/folds', {
          params: {
            path: { mix_id: mix.mix!.id, entry_id: entry.value!.id },
            query: { bars: bars.value, longer: longer.value },
          },
        }),
      ),
    enabled: computed(() => !!mix.mix && !!entry.value),
    placeholderData: (before) => before,
    retry: false,
  })
}

/** What would bring the mix that is open to a length. */
export async function toLength(mixId: string, seconds: number) {
  const params = { path: { mix_id: mixId }, query: { seconds } }
  return data(api.GET('/api/mixes/{mix_id}/to-length', { params }))
}
