import type { Violated } from '../tables/dialect.ts';

/** Errors are wrapped by whatever stands between the driver and the application. */
const DEEPEST_CAUSE = 5;

/** An error and what it was caused by, as a driver may have thrown it. */
export function errorsIn(error: unknown): Violated[] {
  const errors: Violated[] = [];
  for (let inside = error; errors.length < DEEPEST_CAUSE && typeof inside === 'object' && inside !== null; ) {
    errors.push(inside as Violated);
    inside = (inside as Violated).cause;
  }
  return errors;
}
