import { fault } from '../basics/fault.ts';
import { type Able, areSame, type KindSpec, readConstant, type Sameness, samenessOf } from '../declared/kind.ts';
import type { FieldSpec, Say, ValueRule, ValueUse } from '../declared/rule.ts';
import { valueRule } from './value-rule.ts';

type AllowedValue = string | number;
type SimpleRule = ValueRule<Able<'listable'>>;

interface AllowedTakes extends Sameness {
  readonly values: readonly AllowedValue[];
}

/** Whether what is sent and what is judged are written alike; a moment may come with any offset. */
const isAsSent = ({ isRewritten }: KindSpec) => !isRewritten;

const isAmong = (value: AllowedValue, takes: AllowedTakes): boolean =>
  takes.values.includes(value) || (takes.isSame !== undefined && takes.values.some((each) => areSame(each, value, takes)));

const common = {
  facts: ({ values }: AllowedTakes) => ({ values }),
  factNames: ['values'],
  forField: ({ values }: AllowedTakes, { kind }: FieldSpec, say: Say): AllowedTakes => ({
    values: values.map((value) => readConstant(kind, value, 'it names', say) as AllowedValue),
    ...samenessOf(kind),
  }),
  refuses({ values }: AllowedTakes) {
    if (!Array.isArray(values) || values.length === 0) fault('allowed and forbidden need a list of values.');
  },
};

const among = valueRule(
  'allowed',
  { can: 'listable' },
  {
    ...common,
    check: isAmong,
    examples: ({ values }) => values,
    schema: ({ values }, kind) => (isAsSent(kind) ? { schema: { enum: values } } : undefined),
    message: { en: '{field} must be {values}.' },
  },
);
const notAmong = valueRule(
  'forbidden',
  { can: 'listable' },
  {
    ...common,
    check: (value: AllowedValue, takes: AllowedTakes) => !isAmong(value, takes),
    examples: ({ values }) => values,
    schema: ({ values }, kind) => (isAsSent(kind) ? { schema: { not: { enum: values } } } : undefined),
    message: { en: '{field} must not be {values}.' },
  },
);

/**
 * One of these values, exactly. A `choice` says the same as a kind.
 *
 * @law One of these values, exactly.
 * @example text('Pier', allowed(['north', 'south']))
 * @holds 'north'
 * @fails 'west'
 */
export const allowed = (values: readonly AllowedValue[], use?: ValueUse): SimpleRule => among({ values }, use);

/**
 * None of these values.
 *
 * @example text('Name', forbidden(['admin', 'root']))
 * @holds 'Ida'
 * @fails 'root'
 */
export const forbidden = (values: readonly AllowedValue[], use?: ValueUse): SimpleRule => notAmong({ values }, use);
