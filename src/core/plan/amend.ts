import { fault } from '../fault.ts';
import { isBlank } from '../text.ts';
import type { Verdict } from '../verdict.ts';
import { Amending } from './amending.ts';
import { judgeBetween } from './evaluate.ts';
import { verdictOf } from './finish.ts';
import { decide, type Inputs, leaveAllOpen, prepare, settingsOf } from './judge.ts';
import type { Entries, EntryKey, FieldStep, FieldSteps, Frame, GroupStep, ListStep, Plan, ShapesStep } from './plan.ts';
import { PRESENT } from './plan.ts';
import { judgeValue, readList, readSubmission, readValue } from './read.ts';
import { isObject, ownOf, refill, refillEntry, type Stored } from './refill.ts';
import { newFrame, Run } from './run.ts';
import { valueIn } from './value.ts';

// Judges a change to a stored record: presence, kind and value rules of what changes, and the other rules that read it.
// What the change does not mention is taken as it is stored.

export type AmendInputs = Inputs & { readonly whole?: boolean };
export type Amended<A, P> =
  | Exclude<Verdict<A>, { readonly outcome: 'accepted' }>
  | (Extract<Verdict<A>, { readonly outcome: 'accepted' }> & {
      /** The declared paths of what changes; of a list or table its own. */
      readonly changed: readonly P[];
    });

export async function amend(plan: Plan, stored: unknown, change: unknown, inputs: AmendInputs): Promise<Amended<unknown, string>> {
  const { run, amending, options } = begin(plan, stored, change, inputs);
  await decide(run, options);
  return amended(run, amending, options);
}

/** The same without asking anybody: rules that need records, and outside checks, are left open. */
export function amendLocally(plan: Plan, stored: unknown, change: unknown, inputs: AmendInputs): Amended<unknown, string> {
  const { run, amending, options } = begin(plan, stored, change, inputs);
  leaveAllOpen(run, options);
  return amended(run, amending, options);
}

function begin(plan: Plan, stored: unknown, change: unknown, inputs: AmendInputs) {
  if (!isObject(stored)) fault(`Intake "${plan.name}": the first argument of amend is the stored record, as it was accepted.`);
  const occasion = inputs.occasion ?? (plan.occasions.includes('amend') ? 'amend' : undefined);
  const options: Inputs = occasion === undefined ? inputs : { ...inputs, occasion };
  const amending = new Amending(plan.given);
  const run = prepare(plan, options, settingsOf(plan, options), amending);
  if (isObject(change)) new Amendment(run, amending, inputs.whole === true).read(stored, change);
  else readSubmission(run, change);
  judgeBetween(run);
  return { run, amending, options };
}

function amended(run: Run, amending: Amending, options: Inputs): Amended<unknown, string> {
  const verdict = verdictOf(run, options.locale);
  return verdict.outcome === 'accepted' ? { ...verdict, changed: amending.paths } : verdict;
}

/** Fields with what is stored of them and what the change says of them. */
interface Level {
  readonly stored: Stored;
  readonly change: Stored;
  readonly frame: Frame;
  /** The entry that it is in, of a table. */
  readonly indexes: readonly EntryKey[];
  /** Inside what is told as one: a shape, or an entry. */
  readonly isPart: boolean;
}

class Amendment {
  readonly #run: Run;
  readonly #amending: Amending;
  readonly #isWhole: boolean;
  readonly #leftOut: { readonly step: FieldStep; readonly frame: Frame }[] = [];

  constructor(run: Run, amending: Amending, isWhole: boolean) {
    this.#run = run;
    this.#amending = amending;
    this.#isWhole = isWhole;
  }

  read(stored: Stored, change: Stored): void {
    const { fields } = this.#run.plan;
    this.#fields(fields, { stored, change, frame: this.#run.frame, indexes: [], isPart: false });
    for (const { step, frame } of this.#leftOut) this.#confirm(step, frame);
    if (this.#run.plan.refuseStrangers) this.#strangers(change);
  }

  /** Gives whether anything changes. */
  #fields(fields: FieldSteps, level: Level): boolean {
    let changes = false;
    for (const step of fields.steps) if (this.#field(step, level)) changes = true;
    return changes;
  }

  #field(step: FieldStep, level: Level): boolean {
    const { frame, indexes } = level;
    const before = ownOf(level.stored, step.key);
    const raw = ownOf(level.change, step.key);
    const isSilent = raw === undefined || (this.#run.settings.isForm && typeof raw === 'string' && isBlank(raw));
    if (step.isLeftOut && isSilent) {
      frame[step.slot] = undefined;
      this.#leftOut.push({ step, frame });
      return false;
    }
    // A form never shows a secret again, so an empty one says nothing of it.
    const isKept = isSilent && (step.place.isSecret || (raw === undefined && !this.#isWhole));
    if (isKept || this.#isSame(step, before, raw, isSilent)) {
      refill(this.#run, step, before, frame, indexes);
      return false;
    }
    if (isInside(step, before, raw)) {
      const changes = this.#inside(step, before as Stored, raw as Stored, level);
      if (changes) this.#amending.note(frame, step);
      return changes;
    }
    frame[step.slot] = this.#value(step, before, raw, level);
    this.#amending.noteAll(frame, step);
    this.#tell(step, level);
    return true;
  }

  /** A change to nothing, or a value that is read as the one stored. */
  #isSame(step: FieldStep, before: unknown, raw: unknown, isSilent: boolean): boolean {
    const had = before !== undefined && before !== null;
    if (isSilent && step.kind.unsent !== undefined && step.needed && this.#run.settings.isForm) return before === step.kind.unsent;
    if (raw === null && step.nullAllowed) return before === null;
    if (isSilent || raw === null) return !had && !step.needed && !step.filledBy;
    return had && !isInside(step, before, raw) && this.#reads(step, raw, before);
  }

  /** Whether a raw value is read as something equal to what is stored. No rule looks at it. */
  #reads(step: FieldStep, raw: unknown, before: unknown): boolean {
    const now = this.#quietly((run, frame) => {
      readInto(run, step, raw, frame);
      return valueIn(step, frame);
    });
    const then = this.#quietly((run, frame) => {
      refill(run, step, before, frame, []);
      return valueIn(step, frame);
    });
    return now !== undefined && then !== undefined && alike(now.value, then.value);
  }

  #quietly(read: (run: Run, frame: Frame) => unknown): { readonly value: unknown } | undefined {
    const run = new Run(this.#run.plan, { ...this.#run.settings, report: 'everything', explain: false, isQuiet: true });
    const value = read(run, run.frame);
    return run.failures.length === 0 && run.unsettled.length === 0 ? { value } : undefined;
  }

  /** Goes into what is changed member by member; gives whether anything changed there. */
  #inside(step: FieldStep, stored: Stored, change: Stored, level: Level): boolean {
    const inner = { ...level, stored, change };
    if (step.op === 'group') return this.#group(step, inner);
    return step.op === 'shapes' ? this.#shape(step, inner) : this.#table(step as ListStep, inner, level);
  }

  #group(step: GroupStep, level: Level): boolean {
    level.frame[step.slot] = PRESENT;
    return this.#fields(step.inner, level);
  }

  #shape(step: ShapesStep, level: Level): boolean {
    const tag = level.stored[step.tag] as string;
    level.frame[step.slot] = tag;
    const changes = this.#fields(step.shapes.get(tag) as FieldSteps, { ...level, isPart: true });
    if (changes) this.#tell(step, level);
    return changes;
  }

  /** A table is merged name by name. */
  #table(step: ListStep, { stored, change, frame, indexes }: Level, level: Level): boolean {
    const { item } = step;
    const named = this.#isWhole ? Object.keys(change) : [...new Set([...Object.keys(stored), ...Object.keys(change)])];
    const names = named.filter((name) => ownOf(change, name) !== null);
    let changes = names.length !== Object.keys(stored).length;
    const frames: Entries = names.map((name) => {
      const entry = newFrame(step.size);
      const place = [...indexes, name];
      const [was, is] = [{ '*': ownOf(stored, name) }, { '*': ownOf(change, name) }];
      const inner: Level = { stored: was, change: is, frame: entry, indexes: place, isPart: true };
      if (!Object.hasOwn(stored, name)) entry[item.slot] = readValue(this.#run, item, change[name], entry, place);
      if (!Object.hasOwn(stored, name) || this.#field(item, inner)) {
        changes = true;
        this.#amending.noteEntry(entry);
      }
      return entry;
    });
    frames.names = names;
    frame[step.slot] = changes ? judgeValue(this.#run, step, frames, indexes) : frames;
    if (changes) this.#tell(step, level);
    return changes;
  }

  #value(step: FieldStep, before: unknown, raw: unknown, { frame, indexes }: Level): unknown {
    const run = this.#run;
    if (step.op !== 'list' || step.isNamed || !Array.isArray(raw)) return readValue(run, step, raw, frame, indexes);
    const known = this.#known(step, before);
    // An entry that was there before is not judged again, wherever it stands now.
    return readList(run, step, raw, indexes, (entry, index) => {
      const place = [...indexes, index];
      const same =
        known.size === 0 ? undefined : known.get(this.#told(step.item, (scratch, inside) => readInto(scratch, step.item, entry, inside)));
      if (same !== undefined) return refillEntry(run, step, same.entry, place);
      const fresh = newFrame(step.size);
      fresh[step.item.slot] = readValue(run, step.item, entry, fresh, place);
      this.#amending.noteEntry(fresh);
      return fresh;
    });
  }

  /** The entries that are stored, by what they are read as; one look for each that is sent. */
  #known({ item }: ListStep, before: unknown): Map<string | undefined, { readonly entry: unknown }> {
    const known = new Map<string | undefined, { readonly entry: unknown }>();
    for (const entry of Array.isArray(before) ? before : [])
      known.set(
        this.#told(item, (run, frame) => refill(run, item, entry, frame, [])),
        { entry },
      );
    known.delete(undefined);
    return known;
  }

  /** A value as text, the same for equal values; `undefined` for one that cannot be read. */
  #told(step: FieldStep, read: (run: Run, frame: Frame) => void): string | undefined {
    const told = this.#quietly((run, frame) => {
      read(run, frame);
      return valueIn(step, frame);
    });
    return told && JSON.stringify(told.value);
  }

  /** A left-out field that was not sent is needed when some rule reads it beside something that changes. */
  #confirm(step: FieldStep, frame: Frame): void {
    const { plan, rootFrames } = this.#run;
    const confirms = [...plan.between, ...plan.record, ...plan.outside].some(
      (use) => use.scope.length === 0 && use.roles.some((role) => role.step === step) && this.#amending.touches(use, rootFrames),
    );
    if (confirms) frame[step.slot] = readValue(this.#run, step, undefined, frame, []);
  }

  #tell(step: FieldStep, level: Level): void {
    if (!level.isPart && !step.isLeftOut && step.op !== 'group') this.#amending.paths.push(step.place.path);
    if (step.op === 'group' && !level.isPart) this.#tellGroup(step);
  }

  #tellGroup(step: GroupStep): void {
    for (const inner of step.inner.steps) {
      if (inner.op === 'group') this.#tellGroup(inner);
      else if (!inner.isLeftOut) this.#amending.paths.push(inner.place.path);
    }
  }

  /** Undeclared keys of the change; the stored record is the application's own. */
  #strangers(change: Stored): void {
    const scratch = new Run(this.#run.plan, { ...this.#run.settings, explain: false, isQuiet: true });
    readSubmission(scratch, change);
    for (const failure of scratch.failures) {
      if (failure.info.rule === 'stranger') this.#run.fail(failure.info, failure.spots, failure.facts, failure.words, failure.labels);
    }
  }
}

function readInto(run: Run, step: FieldStep, raw: unknown, frame: Frame): void {
  frame[step.slot] = readValue(run, step, raw, frame, []);
}

/** Whether a change goes into what is stored, and does not replace it. */
function isInside(step: FieldStep, before: unknown, raw: unknown): boolean {
  if (!isObject(raw) || !isObject(before)) return false;
  if (step.op === 'shapes') {
    const tag = ownOf(raw, step.tag);
    return step.shapes.has(before[step.tag] as string) && (tag === undefined || tag === before[step.tag]);
  }
  return step.op === 'group' || (step.op === 'list' && step.isNamed);
}

/** Whether two typed values are equal: texts, numbers, flags, and objects and lists of them. */
function alike(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((entry, index) => alike(entry, b[index]));
  if (!isObject(a) || !isObject(b)) return false;
  const names = Object.keys(a);
  return names.length === Object.keys(b).length && names.every((name) => Object.hasOwn(b, name) && alike(a[name], b[name]));
}
