import type { CalendarCondition, ConditionPlan, JoinedCondition, OccasionCondition, ReadsCondition } from './plan.ts';

/** What a reader makes of a condition, by its sort: the compiler misses none. */
export interface ByCondition<T> {
  condition(condition: ReadsCondition): T;
  not(condition: JoinedCondition): T;
  all(condition: JoinedCondition): T;
  any(condition: JoinedCondition): T;
  occasion(condition: OccasionCondition): T;
  calendar(condition: CalendarCondition): T;
}

/** Has a condition read by its sort. */
export function byCondition<T>(condition: ConditionPlan, as: ByCondition<T>): T {
  return as[condition.sort.name](condition as never);
}
