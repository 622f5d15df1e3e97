import { planOf } from '../core/intake.ts';
import { type BySort, bySort } from '../core/plan/by-sort.ts';
import type { FieldStep, FieldSteps, ListStep } from '../core/plan/plan.ts';
import { beginningOf, segmentsOf } from './names.ts';

// From the pointer of a value to the field that it is of.

export interface Found {
  readonly step: FieldStep;
  /** In one of several shapes, or in a row that is not there when it is blank: nobody knows beforehand whether it is needed. */
  readonly isConditional: boolean;
}

/** The steps of a field: indexes and names of entries stand for any entry, and a name may stand in several shapes. */
export function stepsAt(fields: Pick<FieldSteps, 'steps'>, segments: readonly string[], isConditional = false): Found[] {
  const [first, ...rest] = segments;
  const step = fields.steps.find(({ key }) => key === first);
  return step ? inside(step, rest, isConditional) : [];
}

function inside(step: FieldStep, segments: readonly string[], isConditional: boolean): Found[] {
  if (segments.length === 0) return [{ step, isConditional }];
  const drops = (step as ListStep).dropsBlankRows === true;
  return step.inside.flatMap((held) =>
    held.isEntry
      ? held.steps.flatMap((item) => inside(item, segments.slice(1), isConditional || drops))
      : stepsAt(held, segments, isConditional || held.shape !== undefined),
  );
}

/** Whether a name leads to a secret field, or into one, in any of the shapes that it may stand in; also one that is too deep for any field. */
export function secretsOf(intake: { readonly name: string }): (name: string) => boolean {
  const { fields } = planOf(intake);
  const known = new Map<string, boolean>();
  return (name) => {
    const answer = known.get(name) ?? isSecretIn(fields, beginningOf(name), 0);
    known.set(name, answer);
    return answer;
  };
}

// As deep as the fields go, however many dots a sender writes.
function isSecretIn({ steps }: Pick<FieldSteps, 'steps'>, segments: readonly string[], at: number): boolean {
  const step = steps.find(({ key }) => key === segments[at]);
  return step !== undefined && isSecretAt(step, segments, at + 1);
}

function isSecretAt(step: FieldStep, segments: readonly string[], at: number): boolean {
  if (step.place.isSecret) return true;
  if (at >= segments.length) return false;
  return step.inside.some((held) =>
    held.isEntry ? held.steps.some((item) => isSecretAt(item, segments, at + 1)) : isSecretIn(held, segments, at),
  );
}

/** What stands under a number. */
const ROW: BySort<FieldStep | undefined> = {
  scalar: () => undefined,
  group: () => undefined,
  list: ({ item }) => item,
  table: () => undefined,
  shapes: () => undefined,
};

/** The rows that a pointer leads through: what one is called, and its number, counted from 1. */
export function rowsAt(intake: { readonly name: string }, pointer: string): { readonly step: FieldStep; readonly number: number }[] {
  const { fields } = planOf(intake);
  const segments = segmentsOf(pointer);
  return segments.flatMap((segment, at) => {
    const [list] = /^\d+$/.test(segment) ? stepsAt(fields, segments.slice(0, at)) : [];
    const step = list && bySort(list.step, ROW);
    return step ? [{ step, number: Number(segment) + 1 }] : [];
  });
}
