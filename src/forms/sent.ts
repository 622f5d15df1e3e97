import { localText } from '../core/basics/moments.ts';
import { planOf } from '../core/intake.ts';
import type { FieldStep } from '../core/plan/plan.ts';
import { pointerOfName, segmentOf } from './names.ts';
import { secretsOf } from './steps-at.ts';

/** One value that was sent, or is stored, and is no secret. */
export interface SentValue {
  readonly name: string;
  readonly pointer: string;
  readonly value: unknown;
  /** Of an entry of a list of single values: the pointer of the list, under which a form sends all of them. */
  readonly of?: string;
}

/** What was sent under the names of a form, in its order. */
export function namedValues(intake: { readonly name: string }, pairs: Iterable<readonly [string, unknown]>): SentValue[] {
  const isSecret = secretsOf(intake);
  return Array.from(pairs)
    .filter(([name]) => !isSecret(name))
    .map(([name, value]) => ({ name, pointer: pointerOfName(name), value }));
}

/**
 * The values of an object at the fields of an intake, as a form has them: no more of them than the fields take, whatever else stands in it.
 * Moments are told as the clocks of the intake's zone show them, for controls of the type `datetime-local`.
 */
export function fieldValues(intake: { readonly name: string }, object: object): SentValue[] {
  const { fields, zone } = planOf(intake);
  const found: SentValue[] = [];
  const visit = (step: FieldStep, at: Place, value: unknown, of?: string): void => {
    if (step.place.isSecret) return;
    if (step.inside.length === 0) {
      const shown = zone !== undefined && step.kind.formIn && typeof value === 'string' ? localText(value, zone) : value;
      found.push({ ...at, value: shown, ...(of !== undefined && { of }) });
      return;
    }
    if (typeof value !== 'object' || value === null) return;
    const tag = step.tag === undefined ? undefined : memberIn(value, step.tag);
    if (step.tag !== undefined && tag !== undefined) found.push({ ...inside(at, step.tag), value: tag });
    for (const { isEntry, steps, shape } of step.inside) {
      if (isEntry)
        for (const key of keysOf(value, step.most)) visit(steps[0] as FieldStep, inside(at, key), memberIn(value, key), at.pointer);
      else if (shape === undefined || shape === tag) members(steps, at, value);
    }
  };
  const members = (steps: readonly FieldStep[], at: Place | undefined, value: object): void => {
    for (const step of steps) {
      const own = memberIn(value, step.key);
      if (own !== undefined) visit(step, inside(at, step.key), own);
    }
  };
  members(fields.steps, undefined, object);
  return found;
}

type Place = Pick<SentValue, 'name' | 'pointer'>;

function inside(at: Place | undefined, key: string): Place {
  const pointer = `${at?.pointer ?? ''}/${segmentOf(key)}`;
  return { name: at ? `${at.name}.${key}` : key, pointer };
}

/** The first names of entries. */
function keysOf(value: object, most: number): string[] {
  if (!Array.isArray(value)) return Object.keys(value).slice(0, most);
  return Array.from({ length: Math.min(value.length, most) }, (_, index) => String(index));
}

function memberIn(value: object, name: string): unknown {
  return Object.hasOwn(value, name) ? (value as { readonly [member: string]: unknown })[name] : undefined;
}
