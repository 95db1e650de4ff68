/**
 * The text of a search as its controls see it: a field has a value in it or has not. The server reads the same text, so
 * that whatever is typed can be clicked, and the other way round.
 */
const fieldPattern = (name: string) => new RegExp(`(^|\\s)${name}:("[^"]*"|\\S*)`, 'i')
const wordPattern = (word: string) => new RegExp(`(^|\\s)${word}(?=\\s|$)`, 'i')

/** The value of a field, without its quotes, or undefined. */
export function fieldOf(text: string, name: string): string | undefined {
  return fieldPattern(name).exec(text)?.[2]?.replaceAll('"', '') || undefined
}

/** The text with a field at a value, or without it. */
export function withField(text: string, name: string, value: string | undefined): string {
  const rest = text.replace(fieldPattern(name), ' ')
  const term = value === undefined || value === '' ? '' : `${name}:${/\s/.test(value) ? `"${value}"` : value}`
  return tidy(`${rest} ${term}`)
}

/** Whether a word stands in the text by itself. */
export const hasWord = (text: string, word: string) => wordPattern(word).test(text)

/** The text with a word, or without it. */
export function withWord(text: string, word: string, on: boolean): string {
  const rest = text.replace(wordPattern(word), ' ')
  return tidy(on ? `${rest} ${word}` : rest)
}

const tidy = (text: string) => text.replace(/\s+/g, ' ').trim()

/** Both ends of a range; open ones are undefined. */
export function rangeOf(value: string | undefined): { low?: number; high?: number } {
  const found = /^(\d+(?:\.\d+)?)?-?(\d+(?:\.\d+)?)?$/.exec(value ?? '')
  if (!value || !found) return {}
  const number = (part: string | undefined) => (part === undefined ? undefined : Number(part))
  return value.includes('-')
    ? { low: number(found[1]), high: number(found[2]) }
    : { low: number(found[1]), high: number(found[1]) }
}

export function rangeText(low: number | undefined, high: number | undefined): string | undefined {
  if (low === undefined && high === undefined) return undefined
  return `${low ?? ''}-${high ?? ''}`
}
