import { tooMuchWork } from '../messages/catalogue.ts';
import { type Entries, type EntryKey, type FieldStep, type Frame, type ListStep, UNSOUND, type Visit } from '../plan/plan.ts';
import { keyAt } from '../run/entries.ts';
import { newFrame } from '../run/frames.ts';
import { BROKEN, type Source } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { saidBy, unsound } from '../run/unsound.ts';
import { valueIn } from '../run/value.ts';
import { judgeValue } from '../run/value-checks.ts';
import { readValue } from './reading.ts';

// What lists and tables have in common: a frame for each entry.

/** What was sent of entries, before any is read. */
export interface Sent {
  readonly values: Source | readonly unknown[];
  readonly length: number;
  /** Of a table. */
  readonly names?: readonly string[];
  /** Of a form's list with rows left out. */
  readonly numbers?: readonly number[] | undefined;
}

export function readEntries(run: Run, step: ListStep, sent: Sent, indexes: readonly EntryKey[]): unknown {
  const { values, names, numbers, length } = sent;
  if (!isWithin(run, step, length, indexes)) return UNSOUND;
  const frames: Entries = [];
  for (let index = 0; index < length; index++) {
    const key = names?.[index] ?? index;
    let entry: unknown;
    try {
      entry = values[key as never];
    } catch {
      entry = BROKEN;
    }
    const frame = newFrame(step.size);
    const shown = numbers?.[index] ?? key;
    frame[step.item.slot] = readValue(run, step.item, entry, frame, indexes.length === 0 ? [shown] : [...indexes, shown]);
    frames.push(frame);
  }
  if (names) frames.names = names;
  if (numbers) frames.numbers = numbers;
  return judgeValue(run, step, frames, indexes);
}

/** What stands where entries should. */
export function noEntries(run: Run, step: ListStep, indexes: readonly EntryKey[]): typeof UNSOUND {
  return unsound(run, step, undefined, indexes, 'readable', saidBy(step.kind));
}

/** Whether there are no more than there may be, and the submission is not more work. */
export function isWithin(run: Run, step: ListStep, length: number, indexes: readonly EntryKey[]): boolean {
  if (length > step.most) unsound(run, step, undefined, indexes, 'too-many', { facts: { most: step.most } });
  else if (run.spend(length)) return true;
  else unsound(run, step, undefined, indexes, 'too-many', { facts: { most: run.budget }, says: tooMuchWork, entry: 'too-many/work' });
  return false;
}

export function valuesOf(item: FieldStep, entries: Entries): unknown[] {
  const values: unknown[] = [];
  for (let index = 0; index < entries.length; index++) values.push(valueIn(item, entries[index] as Frame));
  return values;
}

export function withinEntries<T, A>({ slot, item }: ListStep, frame: Frame, visit: Visit<T, A>, more: A): T | undefined {
  const held = frame[slot];
  if (!Array.isArray(held)) return undefined;
  for (let index = 0; index < held.length; index++) {
    const found = visit(item, held[index] as Frame, more, keyAt(held, index));
    if (found !== undefined) return found;
  }
  return undefined;
}
