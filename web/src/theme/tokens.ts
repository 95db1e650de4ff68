import { usePreferredDark } from '@vueuse/core'
import { computed } from 'vue'

/** The colours that canvases need, read from the style sheet; they follow the light or dark variant. */
export function useTokens() {
  const dark = usePreferredDark()
  return computed(() => {
    void dark.value
    const style = getComputedStyle(document.documentElement)
    const read = (name: string) => style.getPropertyValue(`--${name}`).trim()
    return {
      ground: read('ground'),
      sheet: read('sheet'),
      ink: read('ink'),
      inkSoft: read('ink-soft'),
      inkFaint: read('ink-faint'),
      line: read('line'),
      lineStrong: read('line-strong'),
      beat: read('beat'),
      bar: read('bar'),
      phrase: read('phrase'),
      veil: read('veil'),
      warn: read('warn'),
    }
  })
}

export type Tokens = ReturnType<typeof useTokens>['value']
