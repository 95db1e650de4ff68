import createClient from 'openapi-fetch'
import type { paths } from './schema'
import type { CurvePoint, Onward, Problem } from './types'

let leaves = false
addEventListener('pagehide', () => (leaves = true), { capture: true })
addEventListener('pageshow', () => (leaves = false))

/** What is sent while the page goes still arrives. */
const outliving = (request: Request) => fetch(request, { keepalive: leaves })

export const api = createClient<paths>({ baseUrl: '/', fetch: outliving })

/** A request that was answered with a problem, or not at all. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly version?: number,
  ) {
    super(message)
  }
}

const UNREACHABLE =
  'Fernbrook does not answer. Is it still running in its window? Your work so far is stored.'

/** The client takes what curves and tempi are made of for lists of any length: back to points and to pairs. */
type WithPairs<T> = T extends number[][]
  ? [number, number][]
  : T extends (number | Onward)[][]
    ? CurvePoint[]
    : T extends (infer E)[]
      ? WithPairs<E>[]
      : T extends object
        ? { [K in keyof T]: WithPairs<T[K]> }
        : T

/** The data of an answer; throws what the problem says. */
export async function data<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<WithPairs<T>> {
  let result
  try {
    result = await answer
  } catch {
    throw new ApiError(UNREACHABLE, 0)
  }
  if (!result.response.ok) throw asError(result.error as Problem | undefined, result.response.status)
  return result.data as WithPairs<T>
}

/** Files, and what is said with them, as what a request sends: a form, of which the client's types know only names. */
export function filesIn(parts: Iterable<readonly [string, File | string]>) {
  const form = new FormData()
  for (const [name, file] of parts) form.append(name, file)
  return { body: {} as never, bodySerializer: () => form }
}

/** What a problem says, as an error. */
export function asError(problem: Problem | undefined, status: number): ApiError {
  const detail = problem?.detail ?? `The server answered with ${status} and no reason.`
  return new ApiError(detail, status, problem?.version ?? undefined)
}
