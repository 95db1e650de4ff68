/**
 * One hue for each entry, in turn. Neighbours differ in lightness as well as in hue, so that they stay apart for
 * colour-blind eyes and in print; each reads on the paper ground and on the dark one.
 */
export interface Hue {
  name: string
  /** For waveforms and curves. */
  strong: string
  /** For words on the strongest. */
  on: string
  /** For the parts of a waveform behind the strongest. */
  middle: string
  pale: string
}

const HUES: readonly Hue[] = [
  { name: 'pine', strong: '#1f6f63', on: '#ffffff', middle: '#5ba094', pale: '#a9cdc5' },
  { name: 'saffron', strong: '#c98a12', on: '#1b1f17', middle: '#dfb35f', pale: '#efd9ab' },
  { name: 'plum', strong: '#7a3f7c', on: '#ffffff', middle: '#a978ab', pale: '#d3bad4' },
  { name: 'lake', strong: '#4a90b8', on: '#1b1f17', middle: '#86b6d1', pale: '#c2dae7' },
  { name: 'brick', strong: '#a1402f', on: '#ffffff', middle: '#c57f72', pale: '#e2bfb8' },
  { name: 'moss', strong: '#8a9a2b', on: '#1b1f17', middle: '#b2bd6d', pale: '#d7ddb4' },
  { name: 'iris', strong: '#4b519c', on: '#ffffff', middle: '#8387be', pale: '#c0c2df' },
  { name: 'rose', strong: '#d0708c', on: '#1b1f17', middle: '#e0a0b3', pale: '#f0d0da' },
]

/** A hue as the colour of text: drawn towards the ink, so that it can be read on light and dark ground. */
export function inkOf(hue: Hue): string {
  return `color-mix(in srgb, ${hue.strong} 68%, var(--ink))`
}

/** A hue of the palette by its number. */
export const hueAt = (index: number): Hue => HUES[index]!
export const HUE_COUNT = HUES.length

/** The hue of the entry at a place in the order. */
export function hueOf(index: number): Hue {
  return HUES[((index % HUES.length) + HUES.length) % HUES.length]!
}
