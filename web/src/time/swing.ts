/** A few hundredths are how long a sound takes to begin, not how it is played. */
const LEAST = 1.2

/** Whether eighths are swung, by how many times longer the first of two is. */
export const isSwung = (ratio: number | null): ratio is number => ratio !== null && ratio >= LEAST
