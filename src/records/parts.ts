import type { Question } from '../core/stored/records.ts';

/** The terms that hold in any case, and the alternatives. */
export function partsOf({ terms, either = [] }: Pick<Question, 'terms' | 'either'>): {
  readonly always: readonly number[];
  readonly groups: NonNullable<Question['either']>;
} {
  const inGroups = new Set(either.flat(2));
  return { always: [...terms.keys()].filter((at) => !inGroups.has(at)), groups: either };
}
