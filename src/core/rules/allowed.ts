import { fault } from '../fault.ts';
import type { FieldSpec } from '../kinds/field.ts';
import { readConstant } from '../kinds/kind.ts';
import type { Say } from './definition.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

type Value = string | number;
type SimpleRule = ValueRule<'text' | 'whole' | 'decimal' | 'exact' | 'choice' | 'day' | 'moment' | 'time'>;
const KINDS = ['text', 'whole', 'decimal', 'exact', 'choice', 'day', 'moment', 'time'] as const;

interface Takes {
  readonly values: readonly Value[];
}

const common = {
  facts: ({ values }: Takes) => ({ values }),
  factNames: ['values'],
  forField: ({ values }: Takes, { kind }: FieldSpec, say: Say): Takes => ({
    values: values.map((value) => readConstant(kind, value, 'it names', say) as Value),
  }),
  refuses({ values }: Takes) {
    if (!Array.isArray(values) || values.length === 0) fault('allowed and forbidden need a list of values.');
  },
};

const among = valueRule('allowed', KINDS, {
  ...common,
  check: (value: Value, { values }: Takes) => values.includes(value),
  message: { en: '{field} must be {values}.' },
});
const notAmong = valueRule('forbidden', KINDS, {
  ...common,
  check: (value: Value, { values }: Takes) => !values.includes(value),
  message: { en: '{field} must not be {values}.' },
});

/** One of these values, exactly. A `choice` says the same as a kind. */
export const allowed = (values: readonly Value[], use?: ValueUse): SimpleRule => among({ values }, use);

/** None of these values. */
export const forbidden = (values: readonly Value[], use?: ValueUse): SimpleRule => notAmong({ values }, use);
