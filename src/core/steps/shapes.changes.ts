import { type FieldStep, type FieldSteps, type Frame, type ShapesStep, Unstored } from '../plan/plan.ts';
import { isObject, memberOf, type Source } from '../run/raw.ts';
import { type Merging, ownOf, type StepChange, UNREAD } from './changing.ts';
import { pairFields } from './fields.changes.ts';

export const shapesChange: StepChange<ShapesStep> = {
  refill(step, stored, frame, isComplete, inside) {
    const tag = isObject(stored) ? ownOf(stored, step.tag) : undefined;
    const fields = typeof tag === 'string' ? step.shapes.get(tag) : undefined;
    if (!fields) return UNREAD;
    inside.fields(fields, stored as Source, frame, isComplete);
    return tag;
  },
  merge(merging, step, raw, level) {
    const { frame, before } = level;
    const was = before[step.slot];
    const tag = merging.isWhole || Object.hasOwn(raw, step.tag) ? memberOf(raw, step.tag) : was;
    // Which shape it is would have to be known.
    if (tag instanceof Unstored) return merging.unknown(step, level, tag);
    const fields = typeof tag === 'string' ? step.shapes.get(tag) : undefined;
    if (!fields) return merging.sent(step, { [step.tag]: tag }, level);
    const known = ownOf(level.stored, step.key);
    const stored = isObject(known) ? known : undefined;
    frame[step.slot] = tag;
    const isSame = was === tag;
    merging.fields(fields, {
      ...level,
      stored,
      change: raw,
      before: isSame ? before : otherShape(merging, fields, stored, before, was),
      isNew: !isSame,
    });
  },
  pair: pairFields,
};

/** What stays of a record that takes another shape: the members of the same names, as the new shape reads them. */
function otherShape(merging: Merging, fields: FieldSteps, stored: Source | undefined, before: Frame, was: unknown): Frame {
  const other = before.slice();
  merging.refill(fields, stored ?? {}, other, !(was instanceof Unstored));
  if (!(was instanceof Unstored)) for (const step of fields.steps) leaveUnread(step, other);
  return other;
}

/** What the other shape cannot read is not there for it, nor what would stand inside. */
function leaveUnread(step: FieldStep, frame: Frame): void {
  if (frame[step.slot] instanceof Unstored) frame[step.slot] = undefined;
  for (const { steps, isEntry } of step.inside) if (!isEntry) for (const inner of steps) leaveUnread(inner, frame);
}
