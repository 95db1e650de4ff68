import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'
import type { PlannedTransition } from '../../api/types'
import { useMix } from '../../stores/mix'

/** Where a transition could lie, the best first; asked for again with each version of the mix. */
export function useProposals(planned: Ref<PlannedTransition | undefined>) {
  const mix = useMix()
  const { data: proposals } = useQuery({
    queryKey: computed(() => ['proposals', mix.mix?.id, mix.mix?.version, planned.value?.index]),
    queryFn: () =>
      data(
        api.GET('/api/mixes/{mix_id}/transitions/{index}/proposals', {
          params: { path: { mix_id: mix.mix!.id, index: planned.value!.index } },
        }),
      ),
    enabled: computed(() => !!mix.mix && !!planned.value),
    placeholderData: (before) => before,
    retry: false,
  })
  return { proposals }
}
