import { type Coming, together } from '../conditions/coming.ts';
import type { ConditionPlan } from '../plan/plan.ts';
import type { Case, FindFor, Guard } from '../run/case.ts';
import type { Run } from '../run/run.ts';

// Evaluates the conditions that guard a rule.

/** All conditions of a use together. */
export function guardOf(run: Run, item: Case, find: FindFor): Guard {
  const { when } = item.use;
  if (when.length === 0) return 'holds';
  if (run.trace) item.guards = new Map();
  return together(evaluateAll(run, when, item, find), 'fails');
}

const NONE: readonly never[] = [];

function evaluateAll(run: Run, conditions: readonly ConditionPlan[], item: Case, find: FindFor): readonly Guard[] {
  return conditions.map((condition) => {
    const guards = condition.of.length === 0 ? NONE : evaluateAll(run, condition.of, item, find);
    const guard = (condition.sort as Coming).come(condition, guards, run, item, find);
    item.guards?.set(condition, guard);
    return guard;
  });
}
