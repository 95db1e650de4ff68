import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { createGlobalState } from '@vueuse/core'
import { computed, ref, shallowRef, type Ref } from 'vue'
import { api, data, filesIn } from '../../api/client'
import type { ArrivedBundle, BundleAudio } from '../../api/types'
import { attempt } from '../page/attempt'
import { untilEnded } from '../page/jobs'

/** The bundles that were made of a mix, and making one. */
export function useBundles(mixId: Ref<string>) {
  const client = useQueryClient()
  const key = computed(() => ['bundles', mixId.value])
  const path = () => ({ params: { path: { mix_id: mixId.value } } })
  const { data: bundles } = useQuery({
    queryKey: key,
    queryFn: () => data(api.GET('/api/mixes/{mix_id}/bundles', path())),
  })
  const then = (work: () => Promise<unknown>) =>
    attempt(async () => {
      await work()
      await client.invalidateQueries({ queryKey: key.value })
    })
  const make = (audio: BundleAudio, with_history: boolean) =>
    then(() => data(api.POST('/api/mixes/{mix_id}/bundles', { ...path(), body: { audio, with_history } })))
  const remove = (id: string) =>
    then(() => data(api.DELETE('/api/bundles/{bundle_id}', { params: { path: { bundle_id: id } } })))
  const cancel = (id: string) =>
    then(() => data(api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: id } } })))
  return { bundles, make, remove, cancel }
}

/** A bundle from elsewhere: brought here, looked at, opened. There is one at a time. */
export const useBundleOpening = createGlobalState(() => {
  const arrived = shallowRef<ArrivedBundle>()
  const bringing = ref(false)
  const share = ref<number>()
  const path = (id: string) => ({ params: { path: { bundle_id: id } } })

  async function bring(file: File) {
    await leave()
    bringing.value = true
    await attempt(async () => {
      arrived.value = await data(api.POST('/api/arrived-bundles', filesIn([['file', file]])))
    })
    bringing.value = false
  }

  /** Open it, with the markup of some tracks from it; the id of the mix, or none where that failed. */
  async function open(take: string[]) {
    const id = arrived.value!.id
    let mix: string | undefined
    share.value = 0
    await attempt(async () => {
      const begun = await data(
        api.POST('/api/arrived-bundles/{bundle_id}/open', { ...path(id), body: { take } }),
      )
      const opening = await untilEnded(begun.job.id, async () => {
        const now = await data(api.GET('/api/arrived-bundles/{bundle_id}/opening', path(id)))
        share.value = now.job.progress
        return now
      })
      if (!opening.mix_id) throw new Error(opening.job.error ?? 'The bundle was not opened.')
      mix = opening.mix_id
      arrived.value = undefined
    })
    share.value = undefined
    return mix
  }

  async function leave() {
    const id = arrived.value?.id
    arrived.value = undefined
    if (id) await attempt(() => data(api.DELETE('/api/arrived-bundles/{bundle_id}', path(id))))
  }

  return { arrived, bringing, share, bring, open, leave }
})
