import type { Fields } from '../declared/field.ts';
import { type Able, areSame, roleOf, type Sameness, samenessOf } from '../declared/kind.ts';
import type { BoundRule, RoleField, RolePaths } from '../declared/rule.ts';
import type { Alike, OfKind } from './roles.ts';
import { define } from './rule.ts';
import { bind, type Use } from './use.ts';

type Comparable = Able<'comparable'>;

export interface Same {
  readonly id: string;
  // `second` takes its kind from `first`, so that a text cannot be compared with a day.
  <F extends Fields, const P extends string>(
    roles: { readonly first: OfKind<F, P, Comparable>['names']; readonly second: Alike<F, P, Comparable>['names'] },
    use?: Use<F>,
  ): BoundRule<F>;
}

type Pair = {
  readonly first: unknown;
  readonly second: unknown;
};
/** What the kind of the fields says of two values. */
export const samenessOfRoles = (_takes: object, [first]: readonly RoleField[]): Sameness => samenessOf(first?.kind);
const COMPARABLE = roleOf([], { can: 'comparable' });

const sameDefinition = define(
  'same',
  { first: COMPARABLE, second: COMPARABLE },
  {
    alike: true,
    forRoles: samenessOfRoles,
    holds: ({ first, second }: Pair, _found: object, takes: Sameness) => areSame(first, second, takes),
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
  { first: COMPARABLE, second: COMPARABLE },
  {
    alike: true,
    forRoles: samenessOfRoles,
    holds: ({ first, second }: Pair, _found: object, takes: Sameness) => !areSame(first, second, takes),
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
