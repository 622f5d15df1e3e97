import type { FieldStep, GroupStep, ListStep, ScalarStep, ShapesStep } from './plan.ts';

/** What a reader makes of a step, by its sort: the compiler misses none. */
export interface BySort<T> {
  scalar(step: ScalarStep): T;
  group(step: GroupStep): T;
  list(step: ListStep): T;
  table(step: ListStep): T;
  shapes(step: ShapesStep): T;
}

/** Has a step read by its sort. */
export function bySort<T>(step: FieldStep, as: BySort<T>): T {
  return as[step.sort.name](step as never);
}
