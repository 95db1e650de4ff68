import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, data } from '../api/client'
import { attempt } from './attempt'

const KEY = ['hand-overs']

/** The hand-overs that there are: those that come with the program, and those that were saved. */
export function useHandOvers() {
  const client = useQueryClient()
  const { data: handOvers } = useQuery({ queryKey: KEY, queryFn: () => data(api.GET('/api/hand-overs')) })
  const look = () => client.invalidateQueries({ queryKey: KEY })

  function save(name: string, mixId: string, transition: number) {
    return attempt(async () => {
      await data(api.POST('/api/hand-overs', { body: { name, mix_id: mixId, transition } }))
      await look()
    })
  }

  function rename(id: string, name: string) {
    return attempt(async () => {
      await data(
        api.PUT('/api/hand-overs/{hand_over_id}', { params: { path: { hand_over_id: id } }, body: { name } }),
      )
      await look()
    })
  }

  function remove(id: string) {
    return attempt(async () => {
      await data(api.DELETE('/api/hand-overs/{hand_over_id}', { params: { path: { hand_over_id: id } } }))
      await look()
    })
  }

  return { handOvers, save, rename, remove }
}
