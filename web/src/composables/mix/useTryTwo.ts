import { useQueryClient } from '@tanstack/vue-query'
import { useRouter } from 'vue-router'
import { api, data } from '../../api/client'
import { MIXES } from './useMixes'
import { attempt } from '../page/attempt'

/** Where in a mix a try came up, so that it can be put in there. */
export interface Origin {
  mix: string
  /** The place before which the two would come in. */
  at: number
}

/** Try how two tracks go together: a mix of its own, of these two, on the bench. */
export function useTryTwo() {
  const client = useQueryClient()
  const router = useRouter()
  return (first: string, second: string, origin?: Origin) =>
    attempt(async () => {
      const made = await data(api.POST('/api/mixes/tries', { body: { first, second } }))
      await client.invalidateQueries({ queryKey: MIXES })
      const query = origin ? { for: origin.mix, at: String(origin.at) } : {}
      await router.push({ name: 'transitions', params: { mix: made.id, number: 1 }, query })
    })
}
