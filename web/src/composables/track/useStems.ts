import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data, filesIn } from '../../api/client'
import type { Stem } from '../../api/types'
import { attempt } from '../page/attempt'
import { isOpen } from '../page/jobs'

/** The stems of a track: whether they are there, how sure they are, and how to have them made. */
export function useStems(trackId: Ref<string>, version: Ref<number>) {
  const client = useQueryClient()
  const key = computed(() => ['stems', trackId.value, version.value])
  const path = () => ({ params: { path: { track_id: trackId.value } } })
  const { data: stems } = useQuery({
    queryKey: key,
    queryFn: () => data(api.GET('/api/tracks/{track_id}/stems', path())),
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
  const isMaking = computed(() => isOpen(stems.value?.job))
  return { stems, isMaking, make, remove, give }
}
