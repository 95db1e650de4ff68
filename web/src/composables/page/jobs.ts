import { createEventHook } from '@vueuse/core'
import type { Job } from '../../api/types'

/** Whether a job has yet to end. */
export function isOpen(job: Pick<Job, 'state'> | null | undefined): boolean {
  return job?.state === 'waiting' || job?.state === 'running'
}

/** Where the jobs of a kind are listed, by what they are about: the key under which the page keeps them. */
export const JOB_LISTS: Record<string, (subject: string) => string[]> = {
  render: (mix) => ['renders', mix],
  straighten: (track) => ['straight', track],
  order: (mix) => ['orders', mix],
  bundle: (mix) => ['bundles', mix],
  publish: (mix) => ['published', mix],
  separate: (track) => ['stems', track],
  backup: () => ['backups'],
  stick: () => ['stick', 'filling'],
}

const news = createEventHook<string | undefined>()

/** Something was told of a job; of any of them where the line had been lost meanwhile. */
export const toldOfJob = (id?: string) => news.trigger(id)

/** Look at a job now and whenever something is told of it, until it has ended; what it was last. */
export async function untilEnded<J extends { job: Job }>(id: string, look: () => Promise<J>): Promise<J> {
  let told = false
  let wake = () => {}
  const { off } = news.on((of) => {
    if (of !== undefined && of !== id) return
    told = true
    wake()
  })
  try {
    for (;;) {
      told = false
      const now = await look()
      if (!isOpen(now.job)) return now
      if (!told) await new Promise<void>((done) => (wake = done))
    }
  } finally {
    off()
  }
}
