import { shallowReactive } from 'vue'

/** Samples at 44.1 kHz in a bucket of peaks, finest first; as `analysis/peaks.py` stores them. */
export const BUCKETS = [64, 256, 1024, 4096, 16384] as const
export type Bucket = (typeof BUCKETS)[number]

const RATE = 44_100
const MOST_KEPT = 60

/** Three bytes a bucket: low, mid, high. */
export interface Peaks {
  bucket: Bucket
  /** Seconds in a bucket. */
  step: number
  bytes: Uint8Array
}

const kept = shallowReactive(new Map<string, Peaks>())
const asked = new Set<string>()

/** Peaks of a track at a resolution, or undefined while they are being fetched; reading it in an effect tracks it. */
export function peaksOf(trackId: string, bucket: Bucket): Peaks | undefined {
  const key = `${trackId}/${bucket}`
  const found = kept.get(key)
  if (!found && !asked.has(key)) void load(key, trackId, bucket)
  return found
}

/** The coarsest resolution that still has a bucket for every pixel. */
export function bucketFor(secondsPerPixel: number): Bucket {
  const fitting = BUCKETS.filter((b) => b / RATE <= secondsPerPixel)
  return fitting[fitting.length - 1] ?? BUCKETS[0]
}

async function load(key: string, trackId: string, bucket: Bucket) {
  asked.add(key)
  try {
    const response = await fetch(`/api/tracks/${trackId}/peaks/${bucket}`)
    if (!response.ok) return
    const bytes = new Uint8Array(await response.arrayBuffer())
    kept.set(key, { bucket, step: bucket / RATE, bytes })
    if (kept.size > MOST_KEPT) kept.delete(kept.keys().next().value!)
  } catch {
    // Without its picture a track is still usable; the next look asks again.
  } finally {
    asked.delete(key)
  }
}
