import type { ConditionPlan, ReadsCondition } from './plan.ts';

/** The conditions that a condition is made of, down to those that read something themselves. */
export function leavesOf(condition: ConditionPlan): readonly ReadsCondition[] {
  return 'definition' in condition ? [condition] : condition.of.flatMap(leavesOf);
}
