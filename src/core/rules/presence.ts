import { fault } from '../fault.ts';
import type { Fields } from '../kinds/field.ts';
import { roleOf } from '../kinds/kind.ts';
import type { Definition } from './definition.ts';
import type { AnyPathOrLoose } from './roles.ts';
import { define } from './rule.ts';
import { type BoundRule, bind, type Use } from './use.ts';

// Definitions for different numbers of fields share an id.
const FAMILY = {};
const maybeAny = roleOf('any', { maybe: true });

const present = define(
  'needed',
  { field: maybeAny },
  {
    holds: ({ field }: { field: unknown }) => field !== undefined,
    message: { en: '{field} is needed.' },
    blames: 'field',
  },
);

/** A field that may be absent is needed after all: under a condition, or on an occasion. */
export const needed = <F extends Fields>(field: AnyPathOrLoose<F>, use?: Use<F>): BoundRule<F> =>
  bind(present, { field }, {}, use) as never;

const missing = define(
  'absent',
  { field: maybeAny },
  {
    holds: ({ field }: { field: unknown }) => field === undefined,
    message: { en: '{field} must be left out.' },
    blames: 'field',
  },
);

/** A field must not be there: under a condition, or on an occasion. */
export const absent = <F extends Fields>(field: AnyPathOrLoose<F>, use?: Use<F>): BoundRule<F> =>
  bind(missing, { field }, {}, use) as never;

/** At least one of these fields must be there; blames all of them. */
export const atLeastOneOf = <F extends Fields>(...fields: readonly AnyPathOrLoose<F>[]): BoundRule<F> => {
  if (fields.length < 2) fault('atLeastOneOf needs two fields or more.');
  const definition = oneOf(fields.length);
  return bind(definition, Object.fromEntries(definition.blames.map((role, index) => [role, fields[index] as string]))) as never;
};

const made = new Map<number, Definition>();

/** One definition for every number of fields. */
function oneOf(fields: number): Definition {
  let definition = made.get(fields);
  if (!definition) {
    const roles = Array.from({ length: fields }, (_, index) => `field${index + 1}`);
    definition = define('at-least-one-of', Object.fromEntries(roles.map((role) => [role, maybeAny])), {
      family: FAMILY,
      holds: (read: { readonly [role: string]: unknown }) => roles.some((role) => read[role] !== undefined),
      message: { en: 'At least one of {fields} is needed.' },
      blames: roles,
    });
    made.set(fields, definition);
  }
  return definition;
}
