import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'
import type { Edit, Entry } from '../../api/types'
import { attempt } from '../page/attempt'

/** Edits that are kept with a track, to be used wherever it is. */
export function useKeptEdits(entry: Ref<Entry>) {
  const client = useQueryClient()
  const path = () => ({ params: { path: { track_id: entry.value.track_id } } })
  const { data: track } = useQuery({
    queryKey: computed(() => ['kept-edits', entry.value.track_id, entry.value.track_version]),
    queryFn: () => data(api.GET('/api/tracks/{track_id}/markup', path())),
  })
  const kept = computed<Edit[]>(() => track.value?.markup.kept ?? [])

  /** Keep these with the track, in the place of those that were; none forgets them. */
  const keep = (edits: Edit[]) =>
    attempt(async () => {
      if (!track.value) return
      const body = { version: track.value.version, command: { kind: 'keep_edits' as const, edits } }
      await data(api.POST('/api/tracks/{track_id}/markup/commands', { ...path(), body }))
      await client.invalidateQueries({ queryKey: ['kept-edits', entry.value.track_id] })
    })

  return { kept, keep }
}
