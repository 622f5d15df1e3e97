import { namedByNumbers } from '../form-numbers.ts';
import { type KindSpec, UNREADABLE } from '../kinds/kind.ts';
import { type EngineId, tooMuchWork } from '../messages/catalogue.ts';
import { isBlank, isStorable, shorten, type Texts, WITHHELD } from '../text.ts';
import type { Why } from '../verdict.ts';
import { beforeInside, isConfirmed } from './amending.ts';
import { describe } from './answer.ts';
import { addEngineFinding, type EngineFinding, engineInfo } from './engine-finding.ts';
import { keyAt } from './entries.ts';
import { factsOf } from './facts.ts';
import {
  type Entries,
  type EntryKey,
  type FieldStep,
  type FieldSteps,
  type Filling,
  type Frame,
  type GroupStep,
  type ListStep,
  type PlaceSpec,
  PRESENT,
  type ScalarStep,
  type ShapesStep,
  UNSOUND,
  Unstored,
  type ValueCheck,
} from './plan.ts';
import { newFrame, type Run, type Spot } from './run.ts';
import { isSameIn, isSound, shapeIn, valueIn } from './value.ts';

// Steps 1 to 4 of a judgement: presence, kind, cleaning, value rules. Every key of the submission is read exactly once,
// here, and nothing looks at the submission afterwards.

type Source = { readonly [key: string]: unknown };

/** Reads a whole submission into the run's frame. */
export function readSubmission(run: Run, submission: unknown): void {
  if (isObject(submission)) readFields(run, run.plan.fields, submission, run.frame, []);
  else {
    addEngineFinding(run, 'readable', [{ place: ROOT, indexes: [] }], { says: NO_OBJECT });
    markUnsound(run.plan.fields.steps, run.frame);
  }
}

/** Reads what the application supplies. It is never read from the submission. */
export function readGiven(run: Run, given: unknown): void {
  readFields(run, run.plan.given, isObject(given) ? given : {}, run.frame, []);
}

const NO_OBJECT: Texts = {
  en: 'The submission must be an object with named fields.',
  de: 'Bitte ein Objekt mit benannten Feldern senden.',
  pl: 'Proszę wysłać obiekt z nazwanymi polami.',
};

const ROOT: PlaceSpec = { path: '', segments: [], label: '', order: -1, isSecret: false, holdsSecret: false, secretNames: 0 };

/** In place of what an object does not let be read, such as a getter that throws: no kind reads it. */
const BROKEN = Symbol('broken');

function readFields(run: Run, fields: FieldSteps, source: Source, frame: Frame, indexes: readonly EntryKey[]): void {
  for (const step of fields.steps) {
    let raw: unknown;
    try {
      raw = step.ownOnly && !Object.hasOwn(source, step.key) ? undefined : source[step.key];
    } catch {
      raw = BROKEN;
    }
    frame[step.slot] = readValue(run, step, raw, frame, indexes);
  }
  refuseStrangers(run, fields, source, indexes);
}

/** The own member of what was sent. */
export function memberOf(source: Source, key: string): unknown {
  try {
    return Object.hasOwn(source, key) ? source[key] : undefined;
  } catch {
    return BROKEN;
  }
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

/** Of a form: whether an entry says nothing. A browser sends "" for every text box that is left empty. */
export function isEmpty(step: FieldStep, raw: unknown): boolean {
  if (typeof raw === 'string') return isBlank(raw) && !(step.op === 'scalar' && step.blankAllowed);
  // A group that need not be there is not there when all its boxes were left empty.
  return (step.op === 'group' || step.op === 'shapes') && !step.needed && isObject(raw) && Object.values(raw).every(isAllBlank);
}

function isAllBlank(raw: unknown): boolean {
  if (typeof raw === 'string') return isBlank(raw);
  return raw === undefined || raw === null || (isPlain(raw) && Object.values(raw).every(isAllBlank));
}

/** Lists and objects that a form's names make; a file is something. */
function isPlain(raw: unknown): raw is object {
  if (typeof raw !== 'object' || raw === null) return false;
  const prototype: unknown = Object.getPrototypeOf(raw);
  return prototype === null || prototype === Object.prototype || prototype === Array.prototype;
}

function readMissing(run: Run, step: FieldStep, frame: Frame, indexes: readonly EntryKey[]): unknown {
  const { isForm, shown } = run.settings;
  const { unsent } = step.kind;
  // An unticked box is not sent. It says no where it is needed, and where the form is known to have shown it.
  if (isForm && unsent !== undefined && (step.needed || shown?.has(step.place.path) || (step.filledBy && run.amending)))
    return judgeValue(run, step, unsent, indexes);
  if (step.filledBy) return readDefault(run, step, step.filledBy, indexes);
  if (!step.needed) return undefined;
  if (isForm) {
    // A form sends no groups, only fields: each of them says for itself that it is missing.
    if (step.op === 'group') return readGroup(run, step, {}, frame, indexes);
    if (step.op === 'shapes') return readShapes(run, step, {}, frame, indexes);
  }
  return run.isReadingOnly ? undefined : unsound(run, step, frame, indexes, 'needed');
}

/** A default is read and judged as what it stands for; when it does not hold, the sender is not to blame. */
function readDefault(run: Run, step: FieldStep, filledBy: Filling, indexes: readonly EntryKey[]): unknown {
  if ('empty' in filledBy) {
    const entries = readList(run, step as ListStep, (step as ListStep).isNamed ? {} : [], indexes);
    if (Array.isArray(entries)) (entries as Entries).isFilled = true;
    return entries;
  }
  try {
    const value = 'call' in filledBy ? typedDefault(step, filledBy.call()) : filledBy.value;
    if (value === null && step.nullAllowed) return null;
    if (value === UNREADABLE) throw new TypeError(`The default of "${step.place.path}" is no ${step.kind.name}.`);
    for (const { definition, takes, rule, severity, on } of step.checks) {
      if (severity === 'warning' || (on && !on.includes(run.settings.occasion))) continue;
      if (definition.check?.(value as never, takes as never, run.at) !== true)
        throw new RangeError(`The default of "${step.place.path}" is refused by its rule ${rule}.`);
    }
    return value;
  } catch (cause) {
    run.leaveOpen(engineInfo(run, 'readable', step.place.path), [{ place: step.place, indexes }], 'fault', cause);
    return UNSOUND;
  }
}

/** A default by the field's own kind, and cleaned. */
export function typedDefault(step: FieldStep, raw: unknown): unknown {
  if (raw === null && step.nullAllowed) return null;
  if (step.op !== 'scalar') return UNREADABLE;
  let value: unknown = step.kind.json(raw);
  if (value === UNREADABLE) return value;
  for (const clean of step.cleans) value = clean(value);
  return step.isText && !step.blankAllowed && isBlank(value as string) ? UNREADABLE : value;
}

function readScalar(run: Run, step: ScalarStep, raw: unknown, indexes: readonly EntryKey[]): unknown {
  const { kind } = step;
  if (run.settings.isForm && Array.isArray(raw)) return unsound(run, step, undefined, indexes, 'readable');
  try {
    let value = run.settings.isForm && !kind.isObject ? (typeof raw === 'string' ? kind.form(raw) : UNREADABLE) : kind.json(raw);
    if (value === UNREADABLE) return unsound(run, step, undefined, indexes, 'readable', saidOf(run, kind, raw));
    if (step.cleans.length > 0) for (const clean of step.cleans) value = clean(value);
    if (isBlankText(step, value) && !run.isReadingOnly) return unsound(run, step, undefined, indexes, 'blank');
    return judgeValue(run, step, value, indexes);
  } catch (cause) {
    // A kind or cleaning step of one's own threw: the code is at fault, and not the sender.
    run.leaveOpen(engineInfo(run, 'readable', step.place.path), [{ place: step.place, indexes }], 'fault', cause);
    return UNSOUND;
  }
}

function isBlankText(step: ScalarStep, value: unknown): boolean {
  return step.isText && step.needed && !step.blankAllowed && isBlank(value as string);
}

function readGroup(run: Run, step: GroupStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (!isObject(raw)) return unsound(run, step, frame, indexes, 'readable', saidBy(step.kind));
  readFields(run, step.inner, raw, frame, indexes);
  return PRESENT;
}

function readShapes(run: Run, step: ShapesStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (!isObject(raw)) return unsound(run, step, frame, indexes, 'readable', saidBy(step.kind));
  const tag = memberOf(raw, step.tag);
  const fields = typeof tag === 'string' ? step.shapes.get(tag) : undefined;
  if (!fields) {
    addEngineFinding(run, 'tag', [{ place: step.place, indexes, key: step.tag }], { facts: { options: [...step.shapes.keys()] } });
    markUnsound([step], frame);
    return UNSOUND;
  }
  readFields(run, fields, raw, frame, indexes);
  return tag;
}

function readList(run: Run, step: ListStep, raw: unknown, indexes: readonly EntryKey[]): unknown {
  const sent = step.isNamed ? namedEntries(run, raw) : entriesOf(run, step, raw);
  if (!sent || (sent.names && !sent.names.every(isStorable))) return unsound(run, step, undefined, indexes, 'readable', saidBy(step.kind));
  const { values, names, length } = sent;
  if (length > step.most) return unsound(run, step, undefined, indexes, 'too-many', { facts: { most: step.most } });
  if (!run.spend(length))
    return unsound(run, step, undefined, indexes, 'too-many', { facts: { most: run.budget }, says: tooMuchWork, entry: 'too-many/work' });
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
    frame[step.item.slot] = readValue(run, step.item, entry, frame, indexes.length === 0 ? [key] : [...indexes, key]);
    frames.push(frame);
  }
  if (names) frames.names = names;
  return judgeValue(run, step, frames, indexes);
}

interface Sent {
  readonly values: Source | readonly unknown[];
  readonly length: number;
  /** Of a table. */
  readonly names?: readonly string[];
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

function entriesOf(run: Run, { item }: ListStep, raw: unknown): Sent | undefined {
  try {
    if (Array.isArray(raw)) return { values: raw, length: Math.min(raw.length, Number.MAX_SAFE_INTEGER) };
    // A form with one entry sends its key once.
    return run.settings.isForm && item.op === 'scalar' && (typeof raw === 'string' || item.kind.isObject)
      ? { values: [raw], length: 1 }
      : undefined;
  } catch {
    return undefined;
  }
}

/**
 * Runs the value rules; gives the value back when it is sound.
 *
 * @param isSame of a change: the value is as it was, so that only rules that name the occasion look at it
 */
function judgeValue(run: Run, step: FieldStep, value: unknown, indexes: readonly EntryKey[], isSame = false): unknown {
  if (run.isReadingOnly) return value;
  let result = value;
  for (const check of step.checks) {
    if (check.on && !check.on.includes(run.settings.occasion)) {
      run.explain(check, 'value', 'skipped', 'occasion');
      continue;
    }
    if (isSame && !check.on) {
      run.explain(check, 'value', 'skipped', 'unchanged');
      continue;
    }
    let seen = value;
    const frame: Frame = [];
    if (step.op === 'list' && !check.definition.countsOnly) {
      // Rules are given values, never frames, and never a list of which an entry failed.
      frame[step.slot] = value;
      if (!isSound(step, frame)) {
        run.explain(check, 'value', 'skipped', 'unsound');
        continue;
      }
      seen = valueIn(step, frame);
    }
    if (!holds(run, check, seen, step, indexes) && check.severity === 'error') {
      result = UNSOUND;
      if (run.settings.report !== 'everything') break;
    }
  }
  return result;
}

function holds(run: Run, check: ValueCheck, value: unknown, step: FieldStep, indexes: readonly EntryKey[]): boolean {
  const { definition, takes } = check;
  try {
    const answer = (definition.check as (value: unknown, takes: object, at: object) => unknown)(value, takes, run.at);
    if (answer === true) {
      run.explain(check, 'value', 'held');
      return true;
    }
    if (answer === false) {
      const read = { field: value };
      const facts = factsOf(check.facts, definition, read, {}, takes, run.at);
      const words = definition.words?.(takes as never, read as never) ?? {};
      run.fail(check, [blamed(check, value, step, indexes)], facts, words, check.facts.labels);
      run.explain(check, 'value', 'failed');
      return false;
    }
    throw new TypeError(`Rule "${check.rule}" gave ${describe(answer)}, and not true or false.`);
  } catch (cause) {
    run.leaveOpen(check, [{ place: step.place, indexes }], 'fault', cause);
    run.explain(check, 'value', 'unsettled', 'fault');
    return false;
  }
}

/** The field, or the entry of a list that is at fault. */
function blamed({ definition, takes }: ValueCheck, value: unknown, step: FieldStep, indexes: readonly EntryKey[]): Spot {
  const entry = definition.entryOf?.(value as never, takes as never);
  if (entry === undefined || step.op !== 'list') return { place: step.place, indexes };
  return { place: step.item.place, indexes: [...indexes, entry] };
}

/** Adds a finding about a field that could not be read; no rule reads its value. */
function unsound(
  run: Run,
  step: FieldStep,
  frame: Frame | undefined,
  indexes: readonly EntryKey[],
  id: EngineId,
  more: EngineFinding = {},
): typeof UNSOUND {
  addEngineFinding(run, id, [{ place: step.place, indexes }], more);
  // Nothing inside a group that failed is blamed again, and no rule reads it.
  if (frame) markUnsound([step], frame);
  return UNSOUND;
}

/** Adds a finding about a field, or (`open`) leaves it undecided. */
export function refuse(
  run: Run,
  step: FieldStep,
  indexes: readonly EntryKey[],
  id: 'readable' | 'too-many',
  open?: { readonly why: Why; readonly cause: unknown },
): typeof UNSOUND {
  if (!open)
    return unsound(run, step, undefined, indexes, id, id === 'readable' ? saidBy(step.kind) : { facts: { most: (step as ListStep).most } });
  run.leaveOpen(engineInfo(run, id, step.place.path), [{ place: step.place, indexes }], open.why, open.cause);
  return UNSOUND;
}

/** What a kind says of a value that it cannot read. */
function saidBy({ says, facts, words, name }: KindSpec): EngineFinding {
  return { says, entry: `readable/${name}`, ...(facts && { facts }), ...(words && { words }) };
}

/** The same, where more can be said: the sender is near, or an application has sent a `Date`. */
function saidOf(run: Run, kind: KindSpec, raw: unknown): EngineFinding {
  const { text, date } = kind.hints ?? {};
  const said = saidBy(kind);
  if (run.settings.isForm) return said;
  if (text && typeof raw === 'string' && kind.form(raw) !== UNREADABLE) return { ...said, says: text, entry: `readable/${kind.name}/text` };
  return date && raw instanceof Date ? { ...said, says: date, entry: `readable/${kind.name}/date` } : said;
}

export function markUnsound(steps: readonly FieldStep[], frame: Frame): void {
  for (const step of steps) {
    frame[step.slot] = UNSOUND;
    if (step.op === 'group') markUnsound(step.inner.steps, frame);
    if (step.op === 'shapes') for (const { steps } of step.shapes.values()) markUnsound(steps, frame);
  }
}

/** Undeclared keys of the submission; a million of them are not a million findings. */
export function refuseStrangers(run: Run, fields: FieldSteps, source: Source, indexes: readonly EntryKey[]): void {
  if (!run.settings.refuseStrangers || run.strangersLeft === 0) return;
  const place = fields.home ?? ROOT;
  try {
    for (const key in source) {
      if (fields.keys.has(key) || !Object.hasOwn(source, key)) continue;
      // Under something secret the key may be the secret.
      const shown = place.isSecret ? WITHHELD : shorten(key);
      addEngineFinding(run, 'stranger', [{ place, indexes, key: shown }], { facts: { key: shown } });
      run.strangersLeft -= 1;
      if (run.strangersLeft === 0) return;
    }
  } catch {
    addEngineFinding(run, 'readable', [{ place, indexes }], { says: NO_OBJECT });
  }
}

function isObject(raw: unknown): raw is Source {
  return typeof raw === 'object' && raw !== null && !isArray(raw);
}

/** What stands behind a revoked proxy, nobody can say. */
function isArray(raw: unknown): boolean {
  try {
    return Array.isArray(raw);
  } catch {
    return true;
  }
}

/**
 * Steps 1 and 4 for what was read into frames beforehand: presence and value rules.
 *
 * @param frames those around, that of the fields last
 * @param before the frame of the stored record to compare with; what is the same there is excused
 */
export function judgeRead(
  run: Run,
  fields: FieldSteps,
  frames: readonly Frame[],
  before: Frame | undefined,
  indexes: readonly EntryKey[],
): void {
  for (const step of fields.steps) judgeStep(run, step, frames, before, indexes);
}

function judgeStep(run: Run, step: FieldStep, frames: readonly Frame[], before: Frame | undefined, indexes: readonly EntryKey[]): void {
  const frame = frames.at(-1) as Frame;
  const held = frame[step.slot];
  if (held === UNSOUND || held === null || held instanceof Unstored) return;
  const isSame = before !== undefined && !step.isLeftOut && isSameIn(step, frame, before);
  if (held === undefined) {
    // What is left out of the value is not stored: it is needed again when a rule reads it beside something that has changed.
    if (step.needed && !isSame && !(step.isLeftOut && !isConfirmed(run, step, frames)))
      frame[step.slot] = readMissing(run, step, frame, indexes);
    return;
  }
  if (step.op === 'group') judgeRead(run, step.inner, frames, beforeInside(step, frame, before), indexes);
  else if (step.op === 'shapes') judgeRead(run, shapeIn(step, held), frames, beforeInside(step, frame, before), indexes);
  else if (step.op === 'list')
    for (const [index, entry] of (held as Entries).entries())
      judgeStep(run, step.item, [...frames, entry], run.amending?.before(entry), [...indexes, keyAt(held as Entries, index)]);
  else if (!isSame && isBlankText(step, held)) {
    frame[step.slot] = unsound(run, step, undefined, indexes, 'blank');
    return;
  }
  if (step.checks.length > 0) frame[step.slot] = judgeValue(run, step, held, indexes, isSame);
}
