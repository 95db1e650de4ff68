import type { components } from './schema'
import type { Mix, MixAnswer, Plan } from './types'

/** A mix as the page works with it. */
export function mixOf(answer: MixAnswer): Mix {
  return { ...answer, plan: planOf(answer.plan) }
}

/** A plan as the page works with it: each transition has its curves and its manner, held once for all alike. */
export function planOf(answer: components['schemas']['PlanOut']): Plan {
  const { sides, manners, transitions, ...plan } = answer
  return {
    ...plan,
    transitions: transitions.map((planned) => {
      const { outgoing, incoming, manner, ...placed } = planned.transition
      return {
        ...planned,
        transition: {
          ...placed,
          ...manners[manner]!,
          outgoing: sides[outgoing]!,
          incoming: sides[incoming]!,
        },
      }
    }),
  }
}
