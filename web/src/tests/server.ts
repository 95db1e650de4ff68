import { ApiError } from '../api/client'

export interface Call {
  path: string
  body?: Record<string, unknown> & { version: number }
}

/** A server that notes what it is asked, and gives the answers, or promises of some, that a test has put in line. */
export function pretendServer() {
  const calls: Call[] = []
  const answers: unknown[] = []
  /** What is answered to a path whenever it is asked for, past the line. */
  const standing = new Map<string, unknown>()
  const call = (path: string, options: { body?: Call['body'] } = {}) => {
    calls.push({ path, body: options.body })
    return Promise.resolve(path)
  }
  /** What replaces the module with the typed client. */
  const client = {
    ApiError,
    api: { GET: call, POST: call, DELETE: call },
    filesIn: () => ({}),
    data: async (request: Promise<unknown>) => {
      const path = (await request) as string
      const answer = standing.has(path) ? standing.get(path) : await answers.shift()
      if (answer instanceof ApiError) throw answer
      return answer ?? null // what no test put in line is nothing; a query must not be undefined
    },
  }
  return { calls, answers, standing, client }
}
