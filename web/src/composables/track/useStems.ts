import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data, filesIn } from '../../api/client'
import type { Stem } from '../../api/types'
import { attempt } from '../page/attempt'

/** How often the making of stems is looked at. */
const LOOK_MS = 1000
const OPEN = ['waiting', 'running']

/** The stems of a track: whether they are there, how sure they are, and how to have them made. */
export function useStems(trackId: Ref<string>, version: Ref<number>) {
  const client = useQueryClient()
  const key = computed(() => ['stems', trackId.value, version.value])
  const path = () => ({ params: { path: { track_id: trackId.value } } })
  const { data: stems } = useQuery({
    queryKey: key,
    queryFn: () => data(api.GET('/api/tracks/{track_id}/stems', path())),
    refetchInterval: (query) => (OPEN.includes(query.state.data?.job?.state ?? '') ? LOOK_MS : false),
    enabled: computed(() => !!trackId.value),
    placeholderData: (before) => before,
  })
  const look = () => client.invalidateQueries({ queryKey: ['stems', trackId.value] })
  const make = () =>
    attempt(async () => {
      await data(api.POST('/api/tracks/{track_id}/stems', path()))
      await look()
    })
  const remove = () =>
    attempt(async () => {
      await data(api.DELETE('/api/tracks/{track_id}/stems', path()))
      await look()
    })
  /** Use files of the user's own. */
  const give = (files: ReadonlyMap<Stem, File>) =>
    attempt(async () => {
      await data(api.POST('/api/tracks/{track_id}/stems/files', { ...path(), ...filesIn(files) }))
      await look()
    }, 'They lie on the track to the sample.')
  const isMaking = computed(() => OPEN.includes(stems.value?.job?.state ?? ''))
  return { stems, isMaking, make, remove, give }
}
