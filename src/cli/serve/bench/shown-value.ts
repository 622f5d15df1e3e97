import { WITHHELD } from '../../../core/basics/text.ts';
import type { FieldStep, FieldSteps } from '../../../core/plan/plan.ts';

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
  if (step.op === 'group') return withoutSecrets(step.inner, value);
  if (step.op === 'shapes') {
    const shape = step.shapes.get(String((value as { readonly [tag: string]: unknown })[step.tag]));
    return shape ? withoutSecrets(shape, value) : value;
  }
  if (step.op !== 'list') return value;
  if (Array.isArray(value)) return value.map((entry) => ofStep(step.item, entry));
  return Object.fromEntries(Object.entries(value).map(([name, entry]) => [name, ofStep(step.item, entry)]));
}
