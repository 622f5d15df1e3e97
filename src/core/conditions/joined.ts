import type { ConditionSpec } from '../declared/rule.ts';
import type { JoinedCondition } from '../plan/plan.ts';
import type { Guard } from '../run/case.ts';
import { type Coming, declared, together } from './coming.ts';

const joined = (sort: Coming<JoinedCondition>, of: readonly ConditionSpec[]) => declared(({ inner }) => ({ sort, of: of.map(inner) }));

const notSort: Coming<JoinedCondition> = {
  name: 'not',
  negates: true,
  come: (_condition, [guard]) => (guard === 'holds' ? 'fails' : guard === 'fails' ? 'holds' : (guard as Guard)),
};
const allSort: Coming<JoinedCondition> = { name: 'all', come: (_condition, guards) => together(guards, 'fails') };
const anySort: Coming<JoinedCondition> = { name: 'any', come: (_condition, guards) => together(guards, 'holds') };

/** Holds where the one in it does not. */
export const negation = (of: ConditionSpec) => joined(notSort, [of]);
/** Holds where all in it hold. */
export const conjunction = (of: readonly ConditionSpec[]) => joined(allSort, of);
/** Holds where any in it holds. */
export const disjunction = (of: readonly ConditionSpec[]) => joined(anySort, of);
