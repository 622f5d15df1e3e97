import { fault } from '../fault.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

type Scalar = string | number | boolean;

function keyOf(entry: unknown, by: string | undefined): unknown {
  const key = by === undefined ? entry : (entry as { readonly [name: string]: unknown })[by];
  // Groups are the same when their values are; their keys stand in declared order.
  return typeof key === 'object' && key !== null ? JSON.stringify(key) : key;
}

const different = valueRule('distinct', ['list'], {
  check(value: readonly unknown[], { by }: { by: string | undefined }) {
    const seen = new Set<unknown>();
    for (const entry of value) {
      const key = keyOf(entry, by);
      // Entries without the key are not compared.
      if (key === undefined) continue;
      if (seen.has(key)) return false;
      seen.add(key);
    }
    return true;
  },
  message: { en: '{field} must not have the same entry twice.' },
});

/** No two entries alike; `by` compares one of their fields only. */
export const distinct = ({ by }: { readonly by?: string } = {}, use?: ValueUse): ValueRule<'list'> => different({ by }, use);

const including = valueRule('must-contain', ['list'], {
  check: (value: readonly unknown[], { entry }: { entry: Scalar }) => value.includes(entry),
  facts: (takes) => takes,
  factNames: ['entry'],
  refuses({ entry }) {
    if (!['string', 'number', 'boolean'].includes(typeof entry)) fault('mustContain needs a text, number or flag that an entry has to be.');
  },
  message: { en: '{field} must contain {entry}.' },
});

/** Some entry is this text, number or flag. */
export const mustContain = (entry: Scalar, use?: ValueUse): ValueRule<'list'> => including({ entry }, use);
