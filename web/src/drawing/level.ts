/**
 * Mean level (0..1) of some buckets of peaks: of the lows, and of the loudest band. The mean of short peaks follows
 * what the ear takes for loudness better than the largest of them, which is the same for most of a mastered track.
 */
export function meanLevel(bytes: Uint8Array, from: number, to: number): { low: number; full: number } {
  const begin = Math.max(0, from)
  const end = Math.min(to, bytes.length / 3)
  if (end <= begin) return { low: 0, full: 0 }
  let low = 0
  let full = 0
  for (let i = begin; i < end; i++) {
    const l = bytes[i * 3]!
    low += l
    full += Math.max(l, bytes[i * 3 + 1]!, bytes[i * 3 + 2]!)
  }
  const scale = 255 * (end - begin)
  return { low: low / scale, full: full / scale }
}
