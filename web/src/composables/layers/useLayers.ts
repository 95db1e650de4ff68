import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, data } from '../../api/client'
import type { Entry, Layer, LayerSound, NewLayer, PlannedLayer } from '../../api/types'
import { spanPiece } from '../../sound/pieces'
import { useListening } from '../../stores/listening'
import { useMix } from '../../stores/mix'
import { newId } from '../../time/cues'
import { packed } from '../../time/layers'
import { BarLines } from '../../time/barLines'
import { entryBeatOf } from '../../time/entryClock'

/** Beats that are heard before and after a layer. */
const AROUND = 8

/** The layers of the mix that is open, and what can be done to them. */
export function useLayers() {
  const mix = useMix()
  const listening = useListening()
  const layers = computed(() => mix.plan?.layers ?? [])
  const heard = computed(() => layers.value.filter((x) => !x.waits))

  const put = (layer: NewLayer) => mix.send({ kind: 'put_layers', layers: [layer as Layer] })
  const remove = (id: string) => mix.send({ kind: 'remove_layers', ids: [id] })

  /** The entry that was the last to come in before a moment. */
  function leading(seconds: number): Entry | undefined {
    return mix.plan?.entries.findLast((e) => e.start_s <= seconds) ?? mix.plan?.entries[0]
  }

  /** The bar line of the leading entry that is nearest to a moment. */
  function placeAt(seconds: number) {
    const entry = leading(seconds)
    const clock = mix.clocks[entry?.clock ?? 0]
    if (!entry || !clock) return undefined
    const beat = BarLines.ofEntry(entry).nearest(entryBeatOf(entry, clock.beatAt(seconds)))
    return { entry, beat }
  }

  /** Lay a sound on the bar line that is nearest to a moment; its id, or nothing where that was refused. */
  async function lay(sound: LayerSound, seconds: number, name = ''): Promise<string | undefined> {
    const place = placeAt(seconds)
    if (!place) return undefined
    const id = newId()
    const at = { to: 'entry' as const, entry_id: place.entry.id, beat: place.beat, cue: null }
    return (await put({ id, name, sound, at })) ? id : undefined
  }

  /** Hear a layer within the mix, with some beats around it, or by itself. */
  function hear(planned: PlannedLayer, alone: boolean) {
    const clock = mix.clocks[planned.clock]
    if (!mix.mix || !clock) return
    const around = alone ? 0.5 : AROUND
    const [start, end] = [planned.start_beat - around, planned.end_beat + around].map((b) => clock.timeAt(b))
    const only = alone ? planned.layer.id : undefined
    listening.play(spanPiece(mix.mix, start!, end!, planned.words, { only }))
  }

  const rows = computed(() => packed(heard.value))
  return { layers, heard, rows, put, remove, leading, placeAt, lay, hear }
}

export type Layers = ReturnType<typeof useLayers>

/** What could be laid over the mix; asked for again with each version of it. */
export function useLayerProposals(open: Ref<boolean>) {
  const mix = useMix()
  return useQuery({
    queryKey: computed(() => ['layer-proposals', mix.mix?.id, mix.mix?.version]),
    queryFn: () =>
      data(api.GET('/api/mixes/{mix_id}/layer-proposals', { params: { path: { mix_id: mix.mix!.id } } })),
    enabled: computed(() => open.value && !!mix.mix),
    placeholderData: (before) => before,
  })
}
