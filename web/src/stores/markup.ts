import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, ApiError, data, filesIn } from '../api/client'
import type { Facet, MarkFacet, MarkupCommand, Offsets, OpenTrack } from '../api/types'
import { BeatGrid } from '../time/grid'
import { changeQueue } from './queue'
import { gestureNow } from './gesture'
import { settleAll } from './resting'

export interface Range {
  low: number
  high: number
}

/** A beat, and the moment that is meant where its line lies elsewhere. */
export interface Place {
  beat: number
  at_s?: number
}

/** The track whose grid is open: what may be changed by hand, and how far the heard onsets lie from its grid. */
export const useMarkup = defineStore('markup', () => {
  const track = shallowRef<OpenTrack>()
  const offsets = shallowRef<Offsets>()
  const missing = ref(false)
  const failure = ref('')
  const { change: queue, settled } = changeQueue(
    () => track.value,
    take,
    () => open(track.value!.id),
  )

  /** Queue a change behind what was pressed and waits to be sent. */
  function change(step: (version: number) => Promise<OpenTrack>): Promise<boolean> {
    void settleAll()
    return queue(step)
  }

  const grid = computed(() => track.value?.markup.grid ?? undefined)
  const beats = computed(() => (grid.value ? new BeatGrid(grid.value) : undefined))

  /** Open a track, or look at it again. */
  async function open(id: string) {
    if (track.value && track.value.id !== id) {
      // What was pressed belongs to the track that was open.
      await settleAll()
      track.value = offsets.value = undefined
    }
    missing.value = false
    failure.value = ''
    try {
      take(await data(api.GET('/api/tracks/{track_id}/markup', at(id))))
    } catch (error) {
      if ((error as ApiError).status === 404) missing.value = true
      else failure.value = (error as Error).message
    }
  }

  function take(fresh: OpenTrack) {
    if (track.value?.id === fresh.id && track.value.version > fresh.version) return
    track.value = fresh
    void measureOffsets(fresh.id, fresh.version)
  }

  /** Ask how far the onsets lie from the grid; an answer that has been overtaken is not used. */
  async function measureOffsets(id: string, version: number) {
    try {
      const found = await data(api.GET('/api/tracks/{track_id}/offsets', at(id)))
      if (track.value?.id === id && track.value.version === version) offsets.value = found
    } catch {
      // Tracks of an older analysis have none; the view says so.
      if (track.value?.id === id) offsets.value = undefined
    }
  }

  /** A track was changed somewhere: look again if it is this one and newer. */
  async function heard(id: string, version: number) {
    if (track.value?.id !== id) return
    await settled()
    if (version > track.value.version) await open(id)
  }

  function at(id: string) {
    return { params: { path: { track_id: id } } }
  }
  const here = () => at(track.value!.id)

  function send(command: MarkupCommand) {
    const gesture = gestureNow()
    return change((version) =>
      data(
        api.POST('/api/tracks/{track_id}/markup/commands', {
          ...here(),
          body: { version, command, gesture },
        }),
      ),
    )
  }
  /** Take parts of what a file says of the track. */
  const takeFile = (file: File, facets: MarkFacet[]) =>
    change((version) =>
      data(
        api.POST('/api/tracks/{track_id}/markup/file/take', {
          ...here(),
          ...filesIn([
            ['file', file],
            ['version', String(version)],
            ...facets.map((f) => ['facets', f] as const),
          ]),
        }),
      ),
    )
  const undo = () =>
    change((version) =>
      data(api.POST('/api/tracks/{track_id}/markup/undo', { ...here(), body: { version } })),
    )
  const redo = () =>
    change((version) =>
      data(api.POST('/api/tracks/{track_id}/markup/redo', { ...here(), body: { version } })),
    )
  const snap = (at: Place) =>
    change((version) =>
      data(api.POST('/api/tracks/{track_id}/markup/snap', { ...here(), body: { version, ...at } })),
    )
  const measure = (range: Range, span?: { start_s: number; end_s: number }) =>
    change((version) =>
      data(
        api.POST('/api/tracks/{track_id}/markup/measure', { ...here(), body: { version, range, ...span } }),
      ),
    )
  const measureFrom = (at: Place, range?: Range) =>
    change((version) =>
      data(
        api.POST('/api/tracks/{track_id}/markup/measure-from', {
          ...here(),
          body: { version, ...at, range },
        }),
      ),
    )
  const follow = (every: number, span?: { from_beat: number; to_beat: number }) =>
    change((version) =>
      data(
        api.POST('/api/tracks/{track_id}/markup/follow', { ...here(), body: { version, every, ...span } }),
      ),
    )
  const tap = (times_s: number[]) =>
    change((version) =>
      data(api.POST('/api/tracks/{track_id}/markup/tap', { ...here(), body: { version, times_s } })),
    )
  const backToAnalysed = (facet: Facet = 'grid') =>
    change((version) =>
      data(api.POST('/api/tracks/{track_id}/markup/analysed', { ...here(), body: { version, facet } })),
    )

  return {
    track,
    offsets,
    grid,
    beats,
    missing,
    failure,
    open,
    heard,
    send,
    takeFile,
    undo,
    redo,
    snap,
    measure,
    measureFrom,
    follow,
    tap,
    backToAnalysed,
  }
})
