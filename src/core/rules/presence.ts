import { fault } from '../basics/fault.ts';
import type { Fields } from '../declared/field.ts';
import { roleOf } from '../declared/kind.ts';
import type { BoundRule, Definition } from '../declared/rule.ts';
import type { JsonSchema } from '../declared/schema-words.ts';
import type { AnyPathOrLoose } from './roles.ts';
import { define } from './rule.ts';
import { bind, type Use } from './use.ts';

const maybeAny = roleOf('any', { maybe: true, reads: 'presence' });

const present = define(
  'needed',
  { field: maybeAny },
  {
    holds: ({ field }: { field: unknown }) => field !== undefined,
    message: { en: '{field} is needed.' },
    isPresence: true,
    schemaBetween: ({ field }) => ({ required: [field] }),
    blames: 'field',
    samples: { holds: [{ field: 'Ida' }], fails: [{ field: undefined }] },
  },
);

/**
 * A field that may be absent is needed after all: under a condition, or on an occasion.
 *
 * @example [{ power: flag('Power'), plug: text('Plug').orAbsent() }, [needed('plug', { when: equals({ power: true }) })]]
 * @holds { power: false }
 * @fails { power: true }
 */
export const needed = <F extends Fields>(field: AnyPathOrLoose<F>, use?: Use<F>): BoundRule<F> =>
  bind(present, { field }, {}, use) as never;

const missing = define(
  'absent',
  { field: maybeAny },
  {
    holds: ({ field }: { field: unknown }) => field === undefined,
    message: { en: '{field} must be left out.' },
    isPresence: true,
    schemaBetween: ({ field }) => ({ not: { required: [field] } }),
    blames: 'field',
    samples: { holds: [{ field: undefined }], fails: [{ field: 'Ida' }] },
  },
);

/**
 * A field must not be there: under a condition, or on an occasion.
 *
 * @law A field must not be there.
 * @example [{ power: flag('Power'), plug: text('Plug').orAbsent() }, [absent('plug', { when: equals({ power: false }) })]]
 * @holds { power: false }
 * @fails { power: false, plug: '16A' }
 */
export const absent = <F extends Fields>(field: AnyPathOrLoose<F>, use?: Use<F>): BoundRule<F> =>
  bind(missing, { field }, {}, use) as never;

/** With none, one, and all of the fields there, on the side where each belongs. */
function samplesFor(roles: readonly string[], holds: (there: number) => boolean) {
  const samples = [0, 1, roles.length].map((there) => ({
    there,
    sample: Object.fromEntries(roles.map((role, index) => [role, index < there ? 'Ida' : undefined])),
  }));
  const side = (isHeld: boolean) => samples.filter(({ there }) => holds(there) === isHeld).map(({ sample }) => sample);
  return { holds: side(true), fails: side(false) };
}

/** Two fields or more, and perhaps how the rule is used. */
// Not as a tuple that ends in the use: the compiler would then blame the first field for a slip in any.
type FieldsThenUse<F extends Fields> = readonly (AnyPathOrLoose<F> | Use<F>)[];

/** A rule about which of several fields are there; one definition for every number of fields. */
function countOf(
  id: string,
  name: string,
  holds: (there: number, all: number) => boolean,
  message: string,
  schema: (keys: readonly string[]) => JsonSchema,
) {
  const family = {};
  const made = new Map<number, Definition>();

  const definitionFor = (fields: number): Definition => {
    let definition = made.get(fields);
    if (!definition) {
      const roles = Array.from({ length: fields }, (_, index) => `field${index + 1}`);
      definition = define(id, Object.fromEntries(roles.map((role) => [role, maybeAny])), {
        family,
        holds: (read: { readonly [role: string]: unknown }) => holds(roles.filter((role) => read[role] !== undefined).length, fields),
        message: { en: message },
        blames: roles,
        schemaBetween: (keys) => schema(Object.values(keys)),
        samples: samplesFor(roles, (there) => holds(there, fields)),
      });
      made.set(fields, definition);
    }
    return definition;
  };

  return <F extends Fields>(all: FieldsThenUse<F>): BoundRule<F> => {
    const fields = all.filter((each) => typeof each === 'string');
    const use: unknown = all.find((each) => typeof each === 'object');
    if (use !== undefined && use !== all.at(-1)) fault(`${name} takes how it is used as its last argument.`);
    if (fields.length < 2) fault(`${name} needs two fields or more.`);
    const definition = definitionFor(fields.length);
    return bind(
      definition,
      Object.fromEntries(definition.blames.map((role, index) => [role, fields[index] as string])),
      {},
      use as object | undefined,
    ) as never;
  };
}

const some = countOf(
  'at-least-one-of',
  'atLeastOneOf',
  (there) => there > 0,
  'At least one of {fields} is needed.',
  (keys) => ({
    anyOf: keys.map((key) => ({ required: [key] })),
  }),
);
const one = countOf(
  'exactly-one-of',
  'exactlyOneOf',
  (there) => there === 1,
  'Exactly one of {fields} is needed.',
  (keys) => ({
    oneOf: keys.map((key) => ({ required: [key] })),
  }),
);
const allOrNone = countOf(
  'together',
  'together',
  (there, all) => there === 0 || there === all,
  '{fields} must be given together, or all be left out.',
  (keys) => ({ dependentRequired: Object.fromEntries(keys.map((key) => [key, keys.filter((other) => other !== key)])) }),
);

/**
 * At least one of these fields must be there; blames all of them.
 *
 * @law At least one of these fields is there; blames all of them.
 * @example [{ email: text('E-mail').orAbsent(), phone: text('Phone').orAbsent() }, [atLeastOneOf('email', 'phone')]]
 * @holds { phone: '+4712345678' }
 * @fails {}
 */
export const atLeastOneOf = <F extends Fields>(...fields: FieldsThenUse<F>): BoundRule<F> => some<F>(fields);

/**
 * One of these fields must be there, and no other of them; blames all of them.
 *
 * @law One of these fields is there, and no other of them; blames all of them.
 * @example [{ card: text('Card').orAbsent(), voucher: text('Voucher').orAbsent() }, [exactlyOneOf('card', 'voucher')]]
 * @holds { card: '1' }
 * @fails { card: '1', voucher: '2' }
 */
export const exactlyOneOf = <F extends Fields>(...fields: FieldsThenUse<F>): BoundRule<F> => one<F>(fields);

/**
 * All of these fields must be there, or none; blames all of them.
 *
 * @law All of these fields are there, or none; blames all of them.
 * @example [{ power: text('Plug').orAbsent(), amount: whole('Amount').orAbsent() }, [together('power', 'amount')]]
 * @holds {}
 * @fails { power: '16A' }
 */
export const together = <F extends Fields>(...fields: FieldsThenUse<F>): BoundRule<F> => allOrNone<F>(fields);
