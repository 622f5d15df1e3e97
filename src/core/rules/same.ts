import type { DayKind } from '../kinds/day.ts';
import type { Fields } from '../kinds/field.ts';
import type { FlagKind } from '../kinds/flag.ts';
import { roleOf } from '../kinds/kind.ts';
import type { DecimalKind } from '../kinds/numbers.ts';
import type { TextKind } from '../kinds/text.ts';
import type { Binding } from './roles.ts';
import { define } from './rule.ts';
import { type BoundRule, bind, type RolePaths, type Use } from './use.ts';

/** One overload a kind, so that a text cannot be compared with a day. */
export interface Same {
  readonly id: string;
  <F extends Fields>(roles: Binding<{ first: TextKind; second: TextKind }, F>, use?: Use<F>): BoundRule<F>;
  <F extends Fields>(roles: Binding<{ first: DecimalKind; second: DecimalKind }, F>, use?: Use<F>): BoundRule<F>;
  <F extends Fields>(roles: Binding<{ first: DayKind; second: DayKind }, F>, use?: Use<F>): BoundRule<F>;
  <F extends Fields>(roles: Binding<{ first: FlagKind; second: FlagKind }, F>, use?: Use<F>): BoundRule<F>;
}

const COMPARABLE = ['text', 'decimal', 'day', 'flag'];

export const sameDefinition = define(
  'same',
  { first: roleOf(COMPARABLE), second: roleOf(COMPARABLE) },
  {
    holds: ({ first, second }: { first: unknown; second: unknown }) => first === second,
    message: { en: '{second} must be the same as {first}.' },
    blames: 'second',
  },
);

/** Two fields with the same value, such as a passphrase typed twice; blames the second. */
export const same: Same = Object.assign((roles: RolePaths, use?: object) => bind(sameDefinition, roles, {}, use) as never, { id: sameDefinition.id });
