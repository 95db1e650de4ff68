import type { Mix, MixAnswer } from './types'

/** A mix as the page works with it: each transition has its curves, which an answer holds once for all that are alike. */
export function mixOf(answer: MixAnswer): Mix {
  const { sides, transitions, ...plan } = answer.plan
  return {
    ...answer,
    plan: {
      ...plan,
      transitions: transitions.map((planned) => {
        const { outgoing, incoming, ...placed } = planned.transition
        return {
          ...planned,
          transition: { ...placed, outgoing: sides[outgoing]!, incoming: sides[incoming]! },
        }
      }),
    },
  }
}
