import { refDebounced } from '@vueuse/core'
import { computed, type Ref, shallowRef, watch } from 'vue'
import type { ListedTrack } from '../../library/trackTable'
import { useFound } from './useLibrary'
import type { TrackTableState } from './useTrackTable'

const SEARCH_MS = 60

interface Options {
  tracks: Readonly<Ref<ListedTrack[] | undefined>>
  search: Ref<string>
  /** The list that is open, or none. */
  list: Ref<string | undefined>
  table: TrackTableState
}

/** The tracks that a search finds, in the order in which they are shown. */
export function useFoundTracks({ tracks, search, list, table }: Options) {
  const searched = refDebounced(search, SEARCH_MS)
  const byId = computed(() => new Map((tracks.value ?? []).map((t) => [t.id, t])))
  /** A list has an order of its own, until it is sorted by a column. */
  const sortedBy = computed(() => (list.value && table.isNewestFirst.value ? '' : table.sort.value.join(',')))
  const { data: found, error: refused } = useFound(searched, sortedBy, list)
  const problem = computed(() => (searched.value.trim() && refused.value ? refused.value.message : undefined))
  /** What was found last stays while a search that is being typed cannot be understood. */
  const lastFound = shallowRef<string[]>()
  watch(found, (now) => now && (lastFound.value = now.ids), { immediate: true })
  const shown = computed(() =>
    (lastFound.value ?? []).map((id) => byId.value.get(id)).filter((t) => t !== undefined),
  )
  const isFound = computed(() => lastFound.value !== undefined)
  const isByColumn = computed(() => sortedBy.value !== '')
  return { searched, byId, shown, problem, isFound, isByColumn }
}
