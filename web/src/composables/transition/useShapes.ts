import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, data } from '../../api/client'
import { attempt } from '../page/attempt'

const KEY = ['shapes']

/** The shapes that there are: those that come with the program, and those that were saved. */
export function useShapes() {
  const client = useQueryClient()
  const { data: shapes } = useQuery({ queryKey: KEY, queryFn: () => data(api.GET('/api/shapes')) })
  const look = () => client.invalidateQueries({ queryKey: KEY })

  function save(name: string, mixId: string, transition: number) {
    return attempt(async () => {
      await data(api.POST('/api/shapes', { body: { name, mix_id: mixId, transition } }))
      await look()
    })
  }

  function rename(id: string, name: string) {
    return attempt(async () => {
      await data(api.PUT('/api/shapes/{shape_id}', { params: { path: { shape_id: id } }, body: { name } }))
      await look()
    })
  }

  function remove(id: string) {
    return attempt(async () => {
      await data(api.DELETE('/api/shapes/{shape_id}', { params: { path: { shape_id: id } } }))
      await look()
    })
  }

  return { shapes, save, rename, remove }
}
