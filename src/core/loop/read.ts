import { namedByNumbers, rowNumbers } from '../basics/form-numbers.ts';
import { isBlank, isStorable } from '../basics/text.ts';
import { UNREADABLE } from '../declared/kind.ts';
import { tooMuchWork } from '../messages/catalogue.ts';
import type { CleanStep } from '../plan/plan.ts';
import {
  type Entries,
  type EntryKey,
  type FieldStep,
  type FieldSteps,
  type Frame,
  type GroupStep,
  type ListStep,
  PRESENT,
  type ScalarStep,
  type ShapesStep,
  UNSOUND,
} from '../plan/plan.ts';
import { readDefault } from '../run/defaults.ts';
import { addEngineFinding, engineInfo } from '../run/engine-finding.ts';
import { newFrame } from '../run/frames.ts';
import { BROKEN, isEmpty, isNeededText, isObject, memberOf, NO_OBJECT, ROOT, type Source } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { refuseStrangers } from '../run/strangers.ts';
import { markUnsound, saidBy, saidOf, unsound } from '../run/unsound.ts';
import { judgeValue } from '../run/value-checks.ts';

// Steps 1 to 4 of a judgement: presence, kind, cleaning, value rules. Every key of the submission is read exactly once,
// here, and nothing looks at the submission afterwards.

/** Reads a whole submission into the run's frame. */
export function readSubmission(run: Run, submission: unknown): void {
  if (isObject(submission)) {
    if (run.code) run.code.read(run, submission, run.frame);
    else readFields(run, run.plan.fields, submission, run.frame, []);
  } else {
    addEngineFinding(run, 'readable', [{ place: ROOT, indexes: [] }], NO_OBJECT);
    markUnsound(run.plan.fields.steps, run.frame);
  }
}

/** Reads what the application supplies. It is never read from the submission. */
export function readGiven(run: Run, given: unknown): void {
  readFields(run, run.plan.given, isObject(given) ? given : {}, run.frame, []);
}

const INHERITED: ReadonlySet<string> = new Set(Object.getOwnPropertyNames(Object.prototype));

function readFields(run: Run, fields: FieldSteps, source: Source, frame: Frame, indexes: readonly EntryKey[]): void {
  const { steps } = fields;
  for (let at = 0; at < steps.length; at++) {
    const step = steps[at] as FieldStep;
    let raw: unknown;
    try {
      // What `Object.prototype` has too counts only where it is the submission's own.
      raw = INHERITED.has(step.key) && !Object.hasOwn(source, step.key) ? undefined : source[step.key];
    } catch {
      raw = BROKEN;
    }
    frame[step.slot] = readValue(run, step, raw, frame, indexes);
  }
  refuseStrangers(run, fields, source, indexes);
}

export function readValue(run: Run, step: FieldStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (raw === null && step.nullAllowed) return null;
  if (raw === undefined || raw === null || (run.settings.isForm && isEmpty(step, raw))) return readMissing(run, step, frame, indexes);
  switch (step.op) {
    case 'scalar':
      return readScalar(run, step, raw, indexes);
    case 'group':
      return readGroup(run, step, raw, frame, indexes);
    case 'list':
      return readList(run, step, raw, indexes);
    case 'shapes':
      return readShapes(run, step, raw, frame, indexes);
  }
}

export function readMissing(run: Run, step: FieldStep, frame: Frame, indexes: readonly EntryKey[]): unknown {
  const { isForm, shown } = run.settings;
  const { unsent } = step.kind;
  // An unticked box is not sent. It says no where it is needed, and where the form is known to have shown it.
  if (isForm && unsent !== undefined && (step.needed || shown?.has(step.place.path) || (step.filledBy && run.amending)))
    return judgeValue(run, step, unsent, indexes);
  const { filledBy } = step;
  if (filledBy) return 'empty' in filledBy ? readNoEntries(run, step as ListStep, indexes) : readDefault(run, step, filledBy, indexes);
  if (!step.needed) return undefined;
  if (isForm) {
    // A form sends no groups, only fields: each of them says for itself that it is missing.
    if (step.op === 'group') return readGroup(run, step, {}, frame, indexes);
    if (step.op === 'shapes') return readShapes(run, step, {}, frame, indexes);
  }
  return run.isReadingOnly ? undefined : unsound(run, step, frame, indexes, 'needed');
}

function readScalar(run: Run, step: ScalarStep, raw: unknown, indexes: readonly EntryKey[]): unknown {
  const { kind } = step;
  if (run.settings.isForm && Array.isArray(raw)) return unsound(run, step, undefined, indexes, 'readable');
  try {
    let value = run.settings.isForm && !kind.isObject ? (typeof raw === 'string' ? readText(run, kind, raw) : UNREADABLE) : kind.json(raw);
    if (value === UNREADABLE) return unreadable(run, step, raw, indexes);
    for (let at = 0; at < step.cleans.length; at++) value = (step.cleans[at] as CleanStep).apply(value);
    if (isBlankText(step, value) && !run.isReadingOnly) return unsound(run, step, undefined, indexes, 'blank');
    return judgeValue(run, step, value, indexes);
  } catch (cause) {
    return faultOfKind(run, step, indexes, cause);
  }
}

/** What a kind says of what it cannot read. */
export function unreadable(run: Run, step: FieldStep, raw: unknown, indexes: readonly EntryKey[]): typeof UNSOUND {
  return unsound(run, step, undefined, indexes, 'readable', saidOf(run, step.kind, raw));
}

/** A kind or cleaning step of one's own threw: the code is at fault, and not the sender. */
export function faultOfKind(run: Run, step: FieldStep, indexes: readonly EntryKey[], cause: unknown): typeof UNSOUND {
  run.leaveOpen(engineInfo(run, 'readable', step.place.path), [{ place: step.place, indexes }], 'fault', cause);
  return UNSOUND;
}

/** A date and time that a form sends without its offset (`datetime-local`) is one of the intake's zone. */
function readText(run: Run, kind: ScalarStep['kind'], text: string): unknown {
  const { zone } = run.settings;
  return kind.formIn && zone !== undefined ? kind.formIn(text, zone) : kind.form(text);
}

/** A list or table that was not sent, and is empty then. */
function readNoEntries(run: Run, step: ListStep, indexes: readonly EntryKey[]): unknown {
  return readList(run, step, step.isNamed ? {} : [], indexes);
}

export function isBlankText(step: ScalarStep, value: unknown): boolean {
  return isNeededText(step) && isBlank(value as string);
}

function readGroup(run: Run, step: GroupStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (!isObject(raw)) return refused(run, step, frame, indexes);
  readFields(run, step.inner, raw, frame, indexes);
  return PRESENT;
}

/** What stands where a group should. */
export function refused(run: Run, step: GroupStep, frame: Frame, indexes: readonly EntryKey[]): typeof UNSOUND {
  return unsound(run, step, frame, indexes, 'readable', saidBy(step.kind));
}

function readShapes(run: Run, step: ShapesStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (!isObject(raw)) return unsound(run, step, frame, indexes, 'readable', { says: step.kind.says });
  const tag = memberOf(raw, step.tag);
  const fields = typeof tag === 'string' ? step.shapes.get(tag) : undefined;
  if (!fields) {
    addEngineFinding(run, 'tag', [{ place: step.place, indexes, key: step.tag }], {
      facts: step.kind.facts ?? {},
      words: step.kind.words ?? {},
    });
    markUnsound([step], frame);
    return UNSOUND;
  }
  readFields(run, fields, raw, frame, indexes);
  return tag;
}

function readList(run: Run, step: ListStep, raw: unknown, indexes: readonly EntryKey[]): unknown {
  const sent = step.isNamed ? namedEntries(run, raw) : entriesOf(run, step, raw);
  if (!sent || (sent.names && !sent.names.every(isStorable))) return unsound(run, step, undefined, indexes, 'readable', saidBy(step.kind));
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

/** Whether a list is no longer than it may be, and the submission not more work. */
function isWithin(run: Run, step: ListStep, length: number, indexes: readonly EntryKey[]): boolean {
  if (length > step.most) unsound(run, step, undefined, indexes, 'too-many', { facts: { most: step.most } });
  else if (run.spend(length)) return true;
  else unsound(run, step, undefined, indexes, 'too-many', { facts: { most: run.budget }, says: tooMuchWork, entry: 'too-many/work' });
  return false;
}

/** How many entries a list has that is read as JSON; -1 where it cannot be read. */
export function lengthOf(run: Run, step: ListStep, raw: unknown, indexes: readonly EntryKey[]): number {
  const length = entriesIn(raw);
  if (length >= 0) return isWithin(run, step, length, indexes) ? length : -1;
  unsound(run, step, undefined, indexes, 'readable', saidBy(step.kind));
  return -1;
}

function entriesIn(raw: unknown): number {
  try {
    return Array.isArray(raw) ? Math.min(raw.length, Number.MAX_SAFE_INTEGER) : -1;
  } catch {
    return -1;
  }
}

interface Sent {
  readonly values: Source | readonly unknown[];
  readonly length: number;
  /** Of a table. */
  readonly names?: readonly string[];
  /** Of a form's list with rows left out. */
  readonly numbers?: readonly number[] | undefined;
}

function namedEntries(run: Run, sent: unknown): Sent | undefined {
  try {
    const raw = run.settings.isForm ? namedByNumbers(sent) : sent;
    if (!isObject(raw)) return undefined;
    const names = Object.keys(raw);
    return { values: raw, names, length: names.length };
  } catch {
    return undefined;
  }
}

function withoutBlankRows(rows: readonly unknown[], numbers: readonly number[] | undefined): Sent {
  const kept = [...rows.keys()].filter((index) => !isBlankRow(rows[index]));
  const left = kept.map((index) => numbers?.[index] ?? index);
  return { values: kept.map((index) => rows[index]), length: kept.length, numbers: left };
}

/** Whether nobody has filled anything in. What a box says that is not ticked, it says by not being sent. */
function isBlankRow(raw: unknown): boolean {
  if (raw === undefined || raw === null || (typeof raw === 'string' && isBlank(raw))) return true;
  if (Array.isArray(raw)) return raw.every(isBlankRow);
  return isObject(raw) && !isFile(raw) && Object.values(raw).every(isBlankRow);
}

function isFile(raw: object): boolean {
  return 'size' in raw && typeof raw.size === 'number';
}

function entriesOf(run: Run, { item, dropsBlankRows }: ListStep, raw: unknown): Sent | undefined {
  try {
    if (Array.isArray(raw)) {
      const length = Math.min(raw.length, Number.MAX_SAFE_INTEGER);
      if (!run.settings.isForm) return { values: raw, length };
      const numbers = rowNumbers(raw);
      return dropsBlankRows ? withoutBlankRows(raw, numbers) : { values: raw, length, numbers };
    }
    // A form with one entry sends its key once.
    return run.settings.isForm && item.op === 'scalar' && (typeof raw === 'string' || item.kind.isObject)
      ? { values: [raw], length: 1 }
      : undefined;
  } catch {
    return undefined;
  }
}
