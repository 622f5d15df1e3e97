import { fault, nearest } from '../basics/fault.ts';
import type { ValueRule, ValueUse } from '../declared/rule.ts';
import type { JsonValue } from '../kinds/json-value.ts';
import { valueRule } from './value-rule.ts';

/** The types of JSON Schema 2020-12 (6.1.1), but for null. */
export type JsonType = keyof typeof TYPES;

const TYPES = {
  object: (value: unknown) => typeof value === 'object' && value !== null && !Array.isArray(value),
  array: (value: unknown) => Array.isArray(value),
  string: (value: unknown) => typeof value === 'string',
  number: (value: unknown) => typeof value === 'number',
  integer: (value: unknown) => Number.isInteger(value),
  boolean: (value: unknown) => typeof value === 'boolean',
};

const EXAMPLES: { readonly [T in JsonType]: JsonValue } = { object: {}, array: [], string: 'text', number: 0.5, integer: 1, boolean: true };

const ofType = valueRule('json-types', ['json-value'], {
  check: (value: JsonValue, { types }: { types: readonly JsonType[] }) => types.some((type) => TYPES[type](value)),
  examples: ({ types }) => types.map((type) => EXAMPLES[type]),
  schema: ({ types }) => ({ schema: { type: types.length === 1 ? types[0] : types } }),
  facts: (takes) => takes,
  factNames: ['types'],
  refuses({ types }) {
    if (!Array.isArray(types) || types.length === 0) fault('jsonTypes needs a list of types, such as ["object"].');
    for (const type of types)
      if (!Object.hasOwn(TYPES, type)) fault(`jsonTypes: "${type}" is no type of JSON; ${nearest(String(type), Object.keys(TYPES))}`);
  },
  message: { en: '{field} must be JSON of the type {types}.' },
});

/**
 * A JSON value of one of these types.
 *
 * @law A JSON value of one of these types: `object`, `array`, `string`, `number`, `integer`, `boolean`.
 * @example jsonValue('Settings', jsonTypes(['object']))
 * @holds { quay: 'north' }
 * @fails ['north']
 */
export const jsonTypes = (types: readonly JsonType[], use?: ValueUse): ValueRule<'json-value'> => ofType({ types }, use);
