import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data, filesIn } from '../../api/client'
import type { Reading } from '../../api/types'

/** Lists, saved filters, tags and pairings. */
export function useGathered() {
  return useQuery({
    queryKey: ['library'],
    queryFn: () => data(api.GET('/api/library')),
    staleTime: Infinity,
    shallow: true,
  })
}

/** The ids of the tracks that a search means, sorted; what was found before stays while it is asked. */
export function useFound(search: Ref<string>, sort: Ref<string>, list: Ref<string | undefined>) {
  return useQuery({
    queryKey: computed(() => ['tracks', 'found', search.value, sort.value, list.value]),
    queryFn: () =>
      data(
        api.GET('/api/tracks/find', {
          params: { query: { search: search.value, sort: sort.value, list_id: list.value } },
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
    structuralSharing: false,
    shallow: true,
  })
}

/** What goes well after a track, or before it. */
export function useFits(id: Ref<string | undefined>, before: Ref<boolean>) {
  return useQuery({
    queryKey: computed(() => ['tracks', 'fits', id.value, before.value]),
    queryFn: () =>
      data(
        api.GET('/api/tracks/{track_id}/fits', {
          params: { path: { track_id: id.value! }, query: { before: before.value } },
        }),
      ),
    enabled: computed(() => id.value !== undefined),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    shallow: true,
  })
}

/** What can be done to many tracks, and to what they are gathered in. */
export function useLibraryActions() {
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: ['tracks'] })
  async function then<T>(request: Promise<T>): Promise<T> {
    const answer = await request
    void client.invalidateQueries({ queryKey: ['library'] })
    void client.invalidateQueries({ queryKey: ['tracks'] })
    return answer
  }
  const list = (list_id: string) => ({ params: { path: { list_id } } })
  const filter = (filter_id: string) => ({ params: { path: { filter_id } } })
  const pair = (first: string, second: string) => ({ params: { path: { first, second } } })

  return {
    refresh,
    /** See which files are missing; the news tell where that has changed. */
    lookForFiles: () => data(api.POST('/api/library/files')),
    tag: (track_ids: string[], add: string[], remove: string[] = []) =>
      then(data(api.POST('/api/library/tags', { body: { track_ids, add, remove } }))),
    renameTag: (tag: string, name: string) =>
      then(data(api.PUT('/api/library/tags/{tag}', { params: { path: { tag } }, body: { name } }))),
    removeTag: (tag: string) =>
      then(data(api.DELETE('/api/library/tags/{tag}', { params: { path: { tag } } }))),
    makeList: (name: string, track_ids: string[] = []) =>
      then(data(api.POST('/api/library/lists', { body: { name, track_ids } }))),
    /** A list as another program wrote it. */
    readList: (file: File) => then(data(api.POST('/api/library/lists/import', filesIn([['file', file]])))),
    changeList: (id: string, change: { name?: string; track_ids?: string[] }) =>
      then(data(api.PUT('/api/library/lists/{list_id}', { ...list(id), body: change }))),
    addToList: (id: string, track_ids: string[]) =>
      then(data(api.POST('/api/library/lists/{list_id}/tracks', { ...list(id), body: { track_ids } }))),
    duplicateList: (id: string) => then(data(api.POST('/api/library/lists/{list_id}/duplicate', list(id)))),
    removeList: (id: string) => then(data(api.DELETE('/api/library/lists/{list_id}', list(id)))),
    saveFilter: (name: string, search: string) =>
      then(data(api.POST('/api/library/filters', { body: { name, search } }))),
    changeFilter: (id: string, name: string, search: string) =>
      then(data(api.PUT('/api/library/filters/{filter_id}', { ...filter(id), body: { name, search } }))),
    removeFilter: (id: string) => then(data(api.DELETE('/api/library/filters/{filter_id}', filter(id)))),
    pair: (first: string, second: string, note = '') =>
      then(
        data(api.PUT('/api/library/pairings/{first}/{second}', { ...pair(first, second), body: { note } })),
      ),
    unpair: (first: string, second: string) =>
      then(data(api.DELETE('/api/library/pairings/{first}/{second}', pair(first, second)))),
    /** How the names of tracks could be read in another encoding. */
    readings: (track_ids: string[]) => data(api.POST('/api/library/readings', { body: { track_ids } })),
    readNames: (track_ids: string[], encoding: Reading['encoding']) =>
      then(data(api.POST('/api/library/readings/use', { body: { track_ids, encoding } }))),
    rename: (track_id: string, title: string, artist: string) =>
      then(
        data(api.PUT('/api/tracks/{track_id}', { params: { path: { track_id } }, body: { title, artist } })),
      ),
    undo: () => then(data(api.POST('/api/library/undo'))),
    redo: () => then(data(api.POST('/api/library/redo'))),
  }
}

export type LibraryActions = ReturnType<typeof useLibraryActions>
