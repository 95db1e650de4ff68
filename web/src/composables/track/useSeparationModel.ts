import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, data } from '../../api/client'
import { attempt } from '../page/attempt'

const KEY = ['separation-model']

/** By what tracks are taken apart: a model on the user's disk, or the program itself. */
export function useSeparationModel() {
  const client = useQueryClient()
  const { data: model } = useQuery({
    queryKey: KEY,
    queryFn: () => data(api.GET('/api/settings/separation-model')),
  })
  const use = (path: string | null) =>
    attempt(async () => {
      const now = await data(api.PUT('/api/settings/separation-model', { body: { path } }))
      client.setQueryData(KEY, now)
    })
  return { model, use }
}
