/** Index of the last element that is not above `value`, or -1; `sorted` rises. */
export function lastNotAfter(sorted: readonly number[], value: number): number {
  let low = 0
  let high = sorted.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (sorted[middle]! <= value) low = middle + 1
    else high = middle
  }
  return low - 1
}
