import { isSameValue } from '../basics/exact.ts';
import type { Fields } from '../declared/field.ts';
import { roleOf } from '../declared/kind.ts';
import type { BoundRule, RoleField, RolePaths } from '../declared/rule.ts';
import type { Alike, OfKind } from './roles.ts';
import { define } from './rule.ts';
import { bind, type Use } from './use.ts';

type Comparable = 'text' | 'decimal' | 'exact' | 'day' | 'moment' | 'time-of-day' | 'flag' | 'choice';

export interface Same {
  readonly id: string;
  // `second` takes its kind from `first`, so that a text cannot be compared with a day.
  <F extends Fields, const P extends string>(
    roles: { readonly first: OfKind<F, P, Comparable>['names']; readonly second: Alike<F, P, Comparable>['names'] },
    use?: Use<F>,
  ): BoundRule<F>;
}

const COMPARABLE: readonly Comparable[] = ['text', 'decimal', 'exact', 'day', 'moment', 'time-of-day', 'flag', 'choice'];

type Pair = {
  readonly first: unknown;
  readonly second: unknown;
};
export type Exactness = {
  readonly isExact: boolean;
};
/** Exact decimals are texts that may be written in several ways. */
export const exactnessOf = (_takes: object, [first]: readonly RoleField[]): { isExact: boolean } => ({
  isExact: first?.kind.is.includes('exact') ?? false,
});

const sameDefinition = define(
  'same',
  { first: roleOf(COMPARABLE), second: roleOf(COMPARABLE) },
  {
    alike: true,
    forRoles: exactnessOf,
    holds: ({ first, second }: Pair, _found: object, { isExact }: Exactness) => isSameValue(first, second, isExact),
    message: { en: '{second} must be the same as {first}.' },
    blames: 'second',
    samples: { holds: [{ first: 'gulls', second: 'gulls' }], fails: [{ first: 'gulls', second: 'Gulls' }] },
  },
);

/**
 * Two fields with the same value, such as a passphrase typed twice; blames the second.
 *
 * @law Two fields have the same value; blames the second.
 * @example [{ pass: text('Passphrase').secret(), again: text('Passphrase again').secret() }, [same({ first: 'pass', second: 'again' })]]
 * @holds { pass: 'gulls', again: 'gulls' }
 * @fails { pass: 'gulls', again: 'Gulls' }
 */
export const same: Same = Object.assign((roles: RolePaths, use?: object) => bind(sameDefinition, roles, {}, use) as never, {
  id: sameDefinition.id,
  definition: sameDefinition,
});

const differentDefinition = define(
  'different',
  { first: roleOf(COMPARABLE), second: roleOf(COMPARABLE) },
  {
    alike: true,
    forRoles: exactnessOf,
    holds: ({ first, second }: Pair, _found: object, { isExact }: Exactness) => !isSameValue(first, second, isExact),
    message: { en: '{second} must not be the same as {first}.' },
    blames: 'second',
    samples: { holds: [{ first: 'gulls', second: 'Gulls' }], fails: [{ first: 'gulls', second: 'gulls' }] },
  },
);

/**
 * Two fields with different values, such as an old and a new passphrase; blames the second.
 *
 * @law Two fields have different values; blames the second.
 * @example [{ old: text('Old passphrase').secret(), next: text('New passphrase').secret() }, [different({ first: 'old', second: 'next' })]]
 * @holds { old: 'gulls', next: 'terns' }
 * @fails { old: 'gulls', next: 'gulls' }
 */
export const different: Same = Object.assign((roles: RolePaths, use?: object) => bind(differentDefinition, roles, {}, use) as never, {
  id: differentDefinition.id,
  definition: differentDefinition,
});
