import { type EntryKey, type FieldSteps, type Frame, type ShapesStep, UNSOUND } from '../plan/plan.ts';
import { addEngineFinding } from '../run/engine-finding.ts';
import { isObject, memberOf } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { markUnsound, unsound } from '../run/unsound.ts';
import { areSameFields, objectOf } from '../run/value.ts';
import { readFields } from './reading.ts';
import type { Reading } from './sort.ts';

/** An object of one of several shapes. Their fields stand in the frame of the step, whose slot names the shape that is there. */
export const shapesStep: Reading<ShapesStep> = {
  name: 'shapes',
  isMade: true,
  isSentInParts: true,
  isOpen: false,
  calls: { tagIn },
  read(run, step, raw, frame, indexes) {
    const tag = tagIn(run, step, raw, frame, indexes);
    if (typeof tag === 'string') readFields(run, shapeIn(step, tag), raw as never, frame, indexes);
    return tag;
  },
  value: (step, held, frame) => ({ [step.tag]: held, ...objectOf(shapeIn(step, held), frame) }),
  isSame(step, frame, other) {
    const held = frame[step.slot];
    if (held !== other[step.slot] || held === UNSOUND) return false;
    return typeof held !== 'string' || areSameFields(shapeIn(step, held), frame, other);
  },
  inside: ({ shapes }) => [...shapes].map(([shape, { steps }]) => ({ steps, isEntry: false, shape })),
  within(step, frame, visit, more) {
    const held = frame[step.slot];
    if (typeof held !== 'string') return undefined;
    for (const inner of shapeIn(step, held).steps) {
      const found = visit(inner, frame, more);
      if (found !== undefined) return found;
    }
    return undefined;
  },
};

/** The name of the shape that was sent; a finding where there is none. */
function tagIn(run: Run, step: ShapesStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): string | typeof UNSOUND {
  if (!isObject(raw)) return unsound(run, step, frame, indexes, 'readable', { says: step.kind.says });
  const tag = memberOf(raw, step.tag);
  if (typeof tag === 'string' && step.shapes.has(tag)) return tag;
  addEngineFinding(run, 'tag', [{ place: step.place, indexes, key: step.tag }], {
    facts: step.kind.facts ?? {},
    words: step.kind.words ?? {},
  });
  markUnsound([step], frame);
  return UNSOUND;
}

export function shapeIn(step: ShapesStep, held: unknown): FieldSteps {
  return step.shapes.get(held as string) as FieldSteps;
}
