import { api, data } from '../../api/client'
import type { ListedTrack } from '../../library/trackTable'
import { attempt } from '../page/attempt'
import { useLibraryActions } from './useLibrary'
import { useTrackActions } from './useTracks'

/** Work on several tracks at once that the server does one by one. */
export function useTrackWork() {
  const actions = useTrackActions()
  const library = useLibraryActions()

  /** Newer code finds more; grids that were changed by hand or checked stay. */
  async function analyse(some: ListedTrack[]) {
    for (const t of some) await attempt(() => actions.analyse(t.id))
  }

  async function acceptSuggested(some: ListedTrack[]) {
    await attempt(
      async () => {
        for (const t of some)
          await data(
            api.POST('/api/tracks/{track_id}/markup/accept', { params: { path: { track_id: t.id } } }),
          )
        await library.refresh()
      },
      `The cues of ${some.length === 1 ? `‘${some[0]!.title}’` : `${some.length} tracks`} are set.`,
    )
  }

  return { analyse, acceptSuggested }
}
