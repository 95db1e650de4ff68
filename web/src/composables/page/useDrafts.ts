import { computed, shallowRef, type Ref } from 'vue'

/**
 * Things that the server has, with what was just changed of them: seen at once, and built upon by the next change, before
 * the server has answered to the one before.
 */
export function useDrafts<T extends { id: string }>(stored: Ref<readonly T[]>) {
  const drafts = shallowRef<ReadonlyMap<string, T>>(new Map())
  const all = computed(() => {
    const known = new Set(stored.value.map((s) => s.id))
    const fresh = [...drafts.value.values()].filter((d) => !known.has(d.id))
    return [...stored.value.map((s) => drafts.value.get(s.id) ?? s), ...fresh]
  })

  /** Show some as they will be while they are sent; a newer draft of one outlasts the answer to an older. */
  async function put(some: readonly T[], send: () => Promise<boolean>): Promise<boolean> {
    drafts.value = new Map([...drafts.value, ...some.map((s) => [s.id, s] as const)])
    const sent = await send()
    const answered = new Set<T>(some)
    drafts.value = new Map([...drafts.value].filter(([, draft]) => !answered.has(draft)))
    return sent
  }

  return { all, put }
}
