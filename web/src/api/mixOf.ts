import type { components } from './schema'
import type { Mix, MixAnswer, Plan, PlannedTransition } from './types'

type Schemas = components['schemas']
type Shaped = PlannedTransition['transition']

/** A mix as the page works with it. */
export function mixOf(answer: MixAnswer): Mix {
  return { ...answer, plan: planOf(answer.plan) }
}

/** A plan as the page works with it: each transition has its curves and its manner, held once for all alike. */
export function planOf(answer: Schemas['PlanOut']): Plan {
  const { sides, manners, transitions, ...plan } = answer
  return { ...plan, transitions: transitions.map((planned) => resolved(planned, sides, manners)) }
}

/** What was made of a transition of an answer; the same again as long as nothing of it changes. */
const made = new WeakMap<Schemas['TransitionOut'], PlannedTransition>()

function resolved(
  planned: Schemas['TransitionOut'],
  sides: Schemas['PlanOut']['sides'],
  manners: Schemas['PlanOut']['manners'],
): PlannedTransition {
  const { outgoing, incoming, manner, ...placed } = planned.transition
  const before = made.get(planned)
  const now = { outgoing: sides[outgoing]!, incoming: sides[incoming]! }
  if (before && hasSame(before.transition, { ...manners[manner]!, ...now })) return before
  const after = { ...planned, transition: { ...placed, ...manners[manner]!, ...now } } as PlannedTransition
  made.set(planned, after)
  return after
}

function hasSame(before: Shaped, now: Partial<Shaped>): boolean {
  return Object.entries(now).every(([name, value]) => before[name as keyof Shaped] === value)
}
