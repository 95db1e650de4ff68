import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, data } from '../../api/client'
import type { Schedule } from '../../api/types'
import { attempt } from '../page/attempt'

const KEY = ['backups']
const LOOK_MS = 1000
const OPEN = ['waiting', 'running']

/** Backups of the library: those that lie here, making one, and which are made by themselves. */
export function useBackups() {
  const client = useQueryClient()
  const { data: backups } = useQuery({
    queryKey: KEY,
    queryFn: () => data(api.GET('/api/backups')),
    refetchInterval: (query) => (query.state.data?.some((b) => OPEN.includes(b.job.state)) ? LOOK_MS : false),
  })
  const { data: schedule } = useQuery({
    queryKey: [...KEY, 'schedule'],
    queryFn: () => data(api.GET('/api/backups/schedule')),
  })
  const look = () => client.invalidateQueries({ queryKey: KEY })
  const make = (with_audio: boolean) =>
    attempt(async () => {
      await data(api.POST('/api/backups', { body: { with_audio } }))
      await look()
    })
  const remove = (id: string) =>
    attempt(async () => {
      await data(api.DELETE('/api/backups/{backup_id}', { params: { path: { backup_id: id } } }))
      await look()
    })
  const plan = (next: Schedule) =>
    attempt(async () => {
      await data(api.PUT('/api/backups/schedule', { body: next }))
      await look()
    })
  const making = computed(() => backups.value?.find((b) => OPEN.includes(b.job.state)))
  return { backups, schedule, making, make, remove, plan }
}
