import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, data } from '../../api/client'
import type { MarkFacet } from '../../api/types'
import { attempt } from '../page/attempt'
import { isOpen } from '../page/jobs'

/** A stick for a player: where it is, what goes onto it, what that takes, and what came back on it. */
export function useStick() {
  const client = useQueryClient()
  const { data: places } = useQuery({ queryKey: ['stick', 'places'], queryFn: () => data(api.GET('/api/sticks/places')) }) // prettier-ignore
  const path = ref('')
  watch(places, (found) => (path.value ||= found?.[0] ?? ''), { immediate: true })
  const lists = useLocalStorage<string[]>('fernbrook-stick-lists', [])
  const mixes = useLocalStorage<string[]>('fernbrook-stick-mixes', [])
  const wish = computed(() => ({ path: path.value, lists: lists.value, mixes: mixes.value }))

  const {
    data: plan,
    error: planError,
    isFetching: isPlanning,
  } = useQuery({
    queryKey: computed(() => ['stick', 'plan', wish.value]),
    queryFn: () => data(api.POST('/api/sticks/plan', { body: wish.value })),
    enabled: computed(() => !!path.value),
    retry: false,
  })
  const { data: filling } = useQuery({
    queryKey: ['stick', 'filling'],
    queryFn: () => data(api.GET('/api/sticks/filling')),
  })
  const isFilling = computed(() => isOpen(filling.value?.job))
  const { data: came, error: cameError } = useQuery({
    queryKey: computed(() => ['stick', 'read', path.value]),
    queryFn: () => data(api.GET('/api/sticks/read', { params: { query: { path: path.value } } })),
    enabled: computed(() => !!path.value),
    retry: false,
  })
  const look = () => client.invalidateQueries({ queryKey: ['stick'] })
  watch(isFilling, (now, before) => before && !now && void look())

  /** Whether what was filled last is what is chosen here: of another stick nothing is told. */
  const asked = ref(false)
  watch(wish, () => (asked.value = false))
  const fill = () =>
    attempt(async () => {
      await data(api.POST('/api/sticks/fill', { body: wish.value }))
      await look()
      asked.value = true
    })
  const cancel = () =>
    attempt(async () => {
      const id = filling.value?.job?.id
      if (id) await data(api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: id } } }))
      await look()
    })
  const take = (track_id: string, facets: MarkFacet[]) =>
    attempt(async () => {
      await data(api.POST('/api/sticks/take', { body: { path: path.value, track_id, facets } }))
      await look()
    })
  const leave = (track_id: string) =>
    attempt(async () => {
      await data(api.POST('/api/sticks/leave', { body: { path: path.value, track_id } }))
      await look()
    })
  const listOfPlayed = () =>
    attempt(async () => {
      await data(api.POST('/api/sticks/played', { body: { path: path.value } }))
      await client.invalidateQueries({ queryKey: ['library'] })
    }, 'The list is among your lists in Tracks.')
  return { places, path, lists, mixes, plan, planError, isPlanning, filling, isFilling, asked, came, cameError, look, fill, cancel, take, leave, listOfPlayed } // prettier-ignore
}
