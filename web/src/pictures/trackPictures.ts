import { useQueryClient, type QueryClient } from '@tanstack/vue-query'
import { shallowReactive } from 'vue'

/** Samples at 44.1 kHz in a bucket of peaks, finest first; as `analysis/peaks.py` stores them. */
export const BUCKETS = [64, 256, 1024, 4096, 16384] as const
export type Bucket = (typeof BUCKETS)[number]
/** Onset frames in a second; as `analysis/features.py` stores them. */
export const ONSET_RATE = 44_100 / 128

const RATE = 44_100
/** Pictures that nobody has fetched again for so long are forgotten. */
const KEPT_MS = 5 * 60_000

/** Three bytes a bucket: low, mid, high. */
export interface Peaks {
  bucket: Bucket
  /** Seconds in a bucket. */
  step: number
  bytes: Uint8Array
}

/** What was fetched, or that there is none yet. A drawing that reads it runs again when it comes. */
const here = shallowReactive(new Map<string, Uint8Array | 'none'>())
let client: QueryClient | undefined

/** Have pictures fetched and kept by the page's query client; called once, where the page starts. */
export function useTrackPictures() {
  client = useQueryClient()
  client.getQueryCache().subscribe((event) => {
    const [what, address] = event.query.queryKey as string[]
    if (event.type === 'removed' && what === 'picture') here.delete(address!)
  })
}

/**
 * Peaks of a track at a resolution, or undefined while they are fetched or not made yet. What may be gone in a moment, as
 * a row of a list that is scrolled, does not have them fetched.
 */
export function peaksOf(trackId: string, bucket: Bucket, fetches = true): Peaks | undefined {
  const address = `/api/tracks/${trackId}/peaks/${bucket}`
  const bytes = fetches ? picture(address) : here.get(address)
  return bytes && bytes !== 'none' ? { bucket, step: bucket / RATE, bytes } : undefined
}

/** Onset strengths of a track, two bytes a frame; ‘none’ where an older analysis kept none, undefined while fetched. */
export function onsetsOf(trackId: string): Uint8Array | 'none' | undefined {
  return picture(`/api/tracks/${trackId}/onsets`)
}

/** Look again for the pictures of a track, after it was analysed. */
export function forgetPictures(trackId: string) {
  client?.removeQueries({
    predicate: ({ queryKey: [what, address] }) =>
      what === 'picture' && String(address).startsWith(`/api/tracks/${trackId}/`),
  })
}

/** The coarsest resolution that still has a bucket for every pixel. */
export function bucketFor(secondsPerPixel: number): Bucket {
  const fitting = BUCKETS.filter((b) => b / RATE <= secondsPerPixel)
  return fitting[fitting.length - 1] ?? BUCKETS[0]
}

function picture(address: string): Uint8Array | 'none' | undefined {
  const found = here.get(address)
  if (!found) void load(address)
  return found
}

/** Fetch a picture, once however often it is asked for meanwhile. */
async function load(address: string) {
  if (!client) return
  try {
    const fetched = await client.fetchQuery({
      queryKey: ['picture', address],
      queryFn: () => bytesAt(address),
      staleTime: Infinity,
      gcTime: KEPT_MS,
    })
    if (here.get(address) !== fetched) here.set(address, fetched)
  } catch {
    // The page tells that the server does not answer; without its picture a track is still usable.
  }
}

async function bytesAt(address: string): Promise<Uint8Array | 'none'> {
  const response = await fetch(address)
  return response.ok ? new Uint8Array(await response.arrayBuffer()) : 'none'
}
