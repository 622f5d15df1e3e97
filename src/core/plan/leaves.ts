import type { ConditionPlan } from './plan.ts';

/** The conditions that a condition is made of, down to those that read something themselves. */
export function leavesOf(condition: ConditionPlan): readonly Extract<ConditionPlan, { op: 'reads' }>[] {
  switch (condition.op) {
    case 'reads':
      return [condition];
    case 'occasion':
    case 'calendar':
      return [];
    case 'not':
      return leavesOf(condition.of);
    default:
      return condition.of.flatMap(leavesOf);
  }
}
