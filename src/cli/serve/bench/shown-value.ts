import { WITHHELD } from '../../../core/basics/text.ts';
import { bySort } from '../../../core/plan/by-sort.ts';
import type { FieldStep, FieldSteps, ListStep } from '../../../core/plan/plan.ts';

/** Characters of a value that are shown. */
const MOST_SHOWN = 120;

/** A value in one line. */
export function shortOf(value: unknown): string {
  const text = value === undefined ? '(nothing)' : (JSON.stringify(value) ?? String(value));
  return text.length > MOST_SHOWN ? `${text.slice(0, MOST_SHOWN - 1)}…` : text;
}

/** A value with what is secret withheld. */
export function withoutSecrets({ steps }: FieldSteps, value: unknown): unknown {
  if (typeof value !== 'object' || value === null) return value;
  const known = new Map(steps.map((step) => [step.key, step]));
  return Object.fromEntries(
    Object.entries(value).map(([key, inner]) => {
      const step = known.get(key);
      return [key, step ? ofStep(step, inner) : inner];
    }),
  );
}

function ofStep(step: FieldStep, value: unknown): unknown {
  if (value === undefined || value === null) return value;
  if (step.place.isSecret) return WITHHELD;
  return bySort<unknown>(step, {
    scalar: () => value,
    group: ({ inner }) => withoutSecrets(inner, value),
    list: (list) => entriesOf(list, value),
    table: (table) => entriesOf(table, value),
    shapes: ({ shapes, tag }) => {
      const shape = shapes.get(String((value as { readonly [tag: string]: unknown })[tag]));
      return shape ? withoutSecrets(shape, value) : value;
    },
  });
}

/** What was sent may be of the other sort. */
function entriesOf({ item }: ListStep, value: object): unknown {
  if (Array.isArray(value)) return value.map((entry) => ofStep(item, entry));
  return Object.fromEntries(Object.entries(value).map(([name, entry]) => [name, ofStep(item, entry)]));
}
