import { type KindSpec, UNREADABLE } from '../kinds/kind.ts';
import type { EngineId } from '../messages/catalogue.ts';
import { isBlank, isStorable, shorten, type Texts } from '../text.ts';
import { describe } from './answer.ts';
import { addEngineFinding, type EngineFinding, engineInfo } from './engine-finding.ts';
import { factsOf } from './facts.ts';
import {
  type Entries,
  type EntryKey,
  type FieldStep,
  type FieldSteps,
  type Frame,
  type GroupStep,
  type ListStep,
  type PlaceSpec,
  PRESENT,
  type ScalarStep,
  type ShapesStep,
  UNSOUND,
  type ValueCheck,
} from './plan.ts';
import { newFrame, type Run } from './run.ts';
import { isSound, valueIn } from './value.ts';

// Steps 1 to 4 of a judgement: presence, kind, cleaning, value rules. Every key of the submission is read exactly once,
// here, and nothing looks at the submission afterwards.

/** Strangers named in findings; a million undeclared keys are not a million findings. */
const MOST_STRANGERS = 100;

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

const ROOT: PlaceSpec = { path: '', segments: [], label: '', order: -1, isSecret: false };

function readFields(run: Run, fields: FieldSteps, source: Source, frame: Frame, indexes: readonly EntryKey[]): void {
  for (const step of fields.steps) {
    const raw = step.ownOnly && !Object.hasOwn(source, step.key) ? undefined : source[step.key];
    frame[step.slot] = readValue(run, step, raw, frame, indexes);
  }
  if (run.plan.refuseStrangers) refuseStrangers(run, fields, source, indexes);
}

export function readValue(run: Run, step: FieldStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (raw === null && step.nullAllowed) return null;
  if (raw === undefined || raw === null || (run.settings.isForm && isEmptyEntry(raw) && !(step.op === 'scalar' && step.blankAllowed)))
    return readMissing(run, step, frame, indexes);
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

// A browser sends "" for every text box that is left empty.
function isEmptyEntry(raw: unknown): boolean {
  return typeof raw === 'string' && isBlank(raw);
}

function readMissing(run: Run, step: FieldStep, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (step.filledBy) {
    const value = step.filledBy();
    return step.op === 'list' ? readList(run, step, value, indexes) : value;
  }
  if (!step.needed) return undefined;
  if (run.settings.isForm) {
    if (step.kind.unsent !== undefined) return judgeValue(run, step, step.kind.unsent, indexes);
    // A form sends no groups, only fields: each of them says for itself that it is missing.
    if (step.op === 'group') return readGroup(run, step, {}, frame, indexes);
    if (step.op === 'shapes') return readShapes(run, step, {}, frame, indexes);
  }
  return unsound(run, step, frame, indexes, 'needed');
}

function readScalar(run: Run, step: ScalarStep, raw: unknown, indexes: readonly EntryKey[]): unknown {
  const { kind } = step;
  if (run.settings.isForm && Array.isArray(raw)) return unsound(run, step, undefined, indexes, 'readable');
  try {
    let value = run.settings.isForm && !kind.isObject ? (typeof raw === 'string' ? kind.form(raw) : UNREADABLE) : kind.json(raw);
    if (value === UNREADABLE) return unsound(run, step, undefined, indexes, 'readable', saidBy(kind));
    if (step.cleans.length > 0) for (const clean of step.cleans) value = clean(value);
    if (step.isText && step.needed && !step.blankAllowed && isBlank(value as string))
      return unsound(run, step, undefined, indexes, 'blank');
    return judgeValue(run, step, value, indexes);
  } catch (cause) {
    // A kind or cleaning step of one's own threw: the code is at fault, and not the sender.
    run.leaveOpen(engineInfo(run, 'readable', step.place.path), [{ place: step.place, indexes }], 'fault', cause);
    return UNSOUND;
  }
}

function readGroup(run: Run, step: GroupStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (!isObject(raw)) return unsound(run, step, frame, indexes, 'readable', saidBy(step.kind));
  readFields(run, step.inner, raw, frame, indexes);
  return PRESENT;
}

function readShapes(run: Run, step: ShapesStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (!isObject(raw)) return unsound(run, step, frame, indexes, 'readable', saidBy(step.kind));
  const tag = Object.hasOwn(raw, step.tag) ? raw[step.tag] : undefined;
  const fields = typeof tag === 'string' ? step.shapes.get(tag) : undefined;
  if (!fields) {
    addEngineFinding(run, 'tag', [{ place: step.place, indexes, key: step.tag }], { facts: { options: [...step.shapes.keys()] } });
    markUnsound([step], frame);
    return UNSOUND;
  }
  readFields(run, fields, raw, frame, indexes);
  return tag;
}

/** How one entry becomes a frame; an amendment keeps those that it knows. */
type EntryReader = (entry: unknown, key: EntryKey) => Frame;

export function readList(run: Run, step: ListStep, raw: unknown, indexes: readonly EntryKey[], readEntry?: EntryReader): unknown {
  const names = step.isNamed && isObject(raw) ? Object.keys(raw) : undefined;
  if (names && !names.every(isStorable)) return unsound(run, step, undefined, indexes, 'readable', saidBy(step.kind));
  const values = names ? names.map((name) => (raw as Source)[name]) : entriesOf(run, step, raw);
  if (!values) return unsound(run, step, undefined, indexes, 'readable', saidBy(step.kind));
  const { length } = values;
  if (length > step.most) return unsound(run, step, undefined, indexes, 'too-many', { facts: { most: step.most } });
  const frames: Entries = [];
  for (let index = 0; index < length; index++) {
    const key = names?.[index] ?? index;
    if (readEntry) {
      frames.push(readEntry(values[index], key));
      continue;
    }
    const frame = newFrame(step.size);
    frame[step.item.slot] = readValue(run, step.item, values[index], frame, indexes.length === 0 ? [key] : [...indexes, key]);
    frames.push(frame);
  }
  if (names) frames.names = names;
  return judgeValue(run, step, frames, indexes);
}

function entriesOf(run: Run, step: ListStep, raw: unknown): readonly unknown[] | undefined {
  if (step.isNamed) return undefined;
  // A form with one entry sends its key once.
  if (run.settings.isForm && typeof raw === 'string') return [raw];
  return Array.isArray(raw) ? raw : undefined;
}

/** Runs the value rules; gives the value back when it is sound. */
export function judgeValue(run: Run, step: FieldStep, value: unknown, indexes: readonly EntryKey[]): unknown {
  if (run.settings.isQuiet) return value;
  let result = value;
  for (const check of step.checks) {
    if (check.on && !check.on.includes(run.settings.occasion)) {
      run.explain(check, 'value', 'skipped', 'occasion');
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
      run.fail(check, [{ place: step.place, indexes }], facts, words, check.facts.labels);
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

/** What a kind says of a value that it cannot read. */
function saidBy({ says, facts, words, name }: KindSpec): EngineFinding {
  return { says, entry: `readable/${name}`, ...(facts && { facts }), ...(words && { words }) };
}

function markUnsound(steps: readonly FieldStep[], frame: Frame): void {
  for (const step of steps) {
    frame[step.slot] = UNSOUND;
    if (step.op === 'group') markUnsound(step.inner.steps, frame);
    if (step.op === 'shapes') for (const { steps } of step.shapes.values()) markUnsound(steps, frame);
  }
}

function refuseStrangers(run: Run, fields: FieldSteps, source: Source, indexes: readonly EntryKey[]): void {
  let named = 0;
  for (const key in source) {
    if (fields.keys.has(key) || !Object.hasOwn(source, key)) continue;
    const shown = shorten(key);
    addEngineFinding(run, 'stranger', [{ place: fields.home ?? ROOT, indexes, key: shown }], { facts: { key: shown } });
    if (++named === MOST_STRANGERS) return;
  }
}

function isObject(raw: unknown): raw is Source {
  return typeof raw === 'object' && raw !== null && !Array.isArray(raw);
}
