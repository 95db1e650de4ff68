import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, data } from '../../api/client'
import type { Schedule } from '../../api/types'
import { attempt } from '../page/attempt'
import { isOpen } from '../page/jobs'

const KEY = ['backups']

/** Backups of the library: those that lie here, making one, and when they are made automatically. */
export function useBackups() {
  const client = useQueryClient()
  const { data: backups } = useQuery({
    queryKey: KEY,
    queryFn: () => data(api.GET('/api/backups')),
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
  const making = computed(() => backups.value?.find((b) => isOpen(b.job)))
  return { backups, schedule, making, make, remove, plan }
}
