import type { Dialect, Violated } from '../tables/dialect.ts';

/** Errors looked at, of those that an error was caused by. */
const MOST = 20;
/** Where what stands between the driver and the application keeps the driver's own error. */
const WRAPPED = ['cause', 'driverError', 'originalError', 'original', 'parent', 'errors'] as const;

/** An error and what it was caused by, as a driver may have thrown it. */
export function errorsIn(error: unknown): Violated[] {
  const errors = new Set<unknown>([error]);
  for (const each of errors) {
    if (typeof each !== 'object' || each === null || errors.size > MOST) errors.delete(each);
    else for (const name of WRAPPED) for (const inside of [(each as { [name: string]: unknown })[name]].flat()) errors.add(inside);
  }
  return [...errors] as Violated[];
}

/** Somebody is in the way, though the database has not said so. */
export class Passing extends Error {}

/** Whether an error says that others were in the way, so that the same may succeed when it is tried again. */
export function isPassing(dialect: Dialect, error: unknown): boolean {
  return errorsIn(error).some((each) => each instanceof Passing || dialect.mayTryAgain(each));
}

/** Whether the database itself has said so; otherwise the connection broke, and nobody knows what became of the statement. */
export function isAnswered({ isAnswer }: Dialect, error: unknown): boolean {
  return !isAnswer || errorsIn(error).some(isAnswer);
}
