import { message } from 'ant-design-vue'

/** Do what the user asked for; where it was refused, tell why. Says what was done where there are words for it. */
export async function attempt(work: () => Promise<unknown>, done?: string) {
  try {
    await work()
    if (done) message.success(done)
  } catch (error) {
    message.error({ content: (error as Error).message, duration: 6 })
  }
}
