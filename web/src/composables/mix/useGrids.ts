import { useQueries } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'
import type { Entry, TrackGrid } from '../../api/types'

/** The grids of the tracks of some entries, each fetched once for a version of its track. */
export function useGrids(entries: Ref<(Pick<Entry, 'track_id' | 'track_version'> | undefined)[]>) {
  const queries = computed(() =>
    entries.value
      .filter((e) => e !== undefined)
      .map((e) => ({
        queryKey: ['grid', e.track_id, e.track_version],
        queryFn: () =>
          data(api.GET('/api/tracks/{track_id}/grid', { params: { path: { track_id: e.track_id } } })),
        staleTime: Infinity,
      })),
  )
  const results = useQueries({ queries, shallow: true })
  return computed(() => {
    const found = new Map<string, TrackGrid>()
    for (const { data: grid } of results.value) if (grid) found.set(grid.track_id, grid)
    return found
  })
}
