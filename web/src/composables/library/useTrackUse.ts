import { useStorage } from '@vueuse/core'
import { type Ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, data } from '../../api/client'
import type { ListedTrack } from '../../library/trackTable'
import { RATE } from '../../sound/player'
import { trackPiece } from '../../sound/pieces'
import { useListening } from '../../stores/listening'
import { useMixActions } from '../mix/useMixes'
import { attempt } from '../page/attempt'
import { useGathered, useLibraryActions } from './useLibrary'
import type { Selection } from './useSelection'

interface Options {
  byId: Readonly<Ref<ReadonlyMap<string, ListedTrack>>>
  selection: Selection
  /** The list that is open, or none. */
  list: Readonly<Ref<string | undefined>>
}

/** What one does with tracks of the library: hear them, put them on a list or into a mix. */
export function useTrackUse({ byId, selection, list }: Options) {
  const { data: gathered } = useGathered()
  const library = useLibraryActions()
  const mixActions = useMixActions()
  const listening = useListening()
  const router = useRouter()

  const lastList = useStorage<string>('fernbrook.lastList', '')
  watch(list, (now) => now && (lastList.value = now))

  /** Put what is chosen on the list that was used last. */
  async function toLastList() {
    const some = selection.list.value
    const there = gathered.value?.lists.find((l) => l.id === lastList.value) ?? gathered.value?.lists[0]
    if (some.length && there) await attempt(() => library.addToList(there.id, some), `On ‘${there.name}’.`)
  }

  async function addTo(mixId: string, some = selection.list.value) {
    await attempt(async () => {
      const id = mixId || (await mixActions.create('New mix')).id
      const open = await data(api.GET('/api/mixes/{mix_id}', { params: { path: { mix_id: id } } }))
      await data(
        api.POST('/api/mixes/{mix_id}/commands', {
          params: { path: { mix_id: id } },
          body: { version: open.version, command: { kind: 'add_tracks', track_ids: some } },
        }),
      )
      await library.refresh()
      await router.push({ name: 'order', params: { mix: id } })
    })
  }

  /** Play from where a few seconds tell most of a track. */
  async function playTelling(id = selection.cursor.value) {
    const track = id && byId.value.get(id)
    if (!track) return
    const told = await data(
      api.GET('/api/tracks/{track_id}/grid', { params: { path: { track_id: track.id } } }),
    )
    listening.play(trackPiece(track), Math.round(told.telling_s * RATE))
  }

  /** Play on from some seconds later, or before. */
  function jump(seconds: number) {
    const piece = listening.piece
    if (!piece) return
    listening.seek(Math.min(Math.max(listening.position + seconds * RATE, piece.start), piece.end - 1))
  }

  return { toLastList, addTo, playTelling, jump }
}
