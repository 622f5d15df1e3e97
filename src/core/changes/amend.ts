import { fault } from '../basics/fault.ts';
import { namedByNumbers } from '../basics/form-numbers.ts';
import { isBlank, isStorable } from '../basics/text.ts';
import type { Verdict } from '../basics/verdict.ts';
import { decide, leaveAllOpen, prepare, settingsOf } from '../judging/judge.ts';
import { AMEND, type Inputs } from '../judging/options.ts';
import { judgeBetween } from '../loop/cases.ts';
import { readSubmission, readValue } from '../loop/read.ts';
import {
  type Entries,
  type EntryKey,
  type FieldStep,
  type FieldSteps,
  type Frame,
  type ListStep,
  type Plan,
  PRESENT,
  type ScalarStep,
  type ShapesStep,
  UNSOUND,
  Unstored,
} from '../plan/plan.ts';
import { Amending, changedPaths } from '../run/amending.ts';
import { verdictOf } from '../run/finish.ts';
import { newFrame } from '../run/frames.ts';
import { isEmpty, memberOf } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { refuseStrangers } from '../run/strangers.ts';
import { markUnsound, refuse } from '../run/unsound.ts';
import { judgeRead } from './judge-read.ts';
import { pairEntries } from './pair.ts';
import { isObject, ownOf, refillFields, type Stored } from './refill.ts';

// Judges a change to a stored record: the change is merged into it (RFC 7396), or takes its place as a whole form, and the
// result is judged in full, as anything new would be. A rule is excused when all that it reads is the same as before.

export type AmendInputs = Inputs & { readonly whole?: boolean; readonly complete?: boolean };
/** What became of a change: a verdict, which beside an accepted value has the paths that change. */
export type Amended<A, P> =
  | Exclude<Verdict<A>, { readonly outcome: 'accepted' }>
  | (Extract<Verdict<A>, { readonly outcome: 'accepted' }> & {
      /** The declared paths of what changes; of a list or table its own. */
      readonly changed: readonly P[];
    });

export async function amend(plan: Plan, stored: unknown, change: unknown, inputs: AmendInputs): Promise<Amended<unknown, string>> {
  const begun = beginAmending(plan, stored, change, inputs);
  await decide(begun.run, begun.options);
  return amended(begun);
}

/** The same without asking anybody: rules that need records, and outside checks, are left open. */
export function amendLocally(plan: Plan, stored: unknown, change: unknown, inputs: AmendInputs): Amended<unknown, string> {
  const begun = beginAmending(plan, stored, change, inputs);
  leaveAllOpen(begun.run, begun.options);
  return amended(begun);
}

export interface Begun {
  readonly run: Run;
  readonly options: Inputs;
  readonly changed: readonly string[];
}

export function beginAmending(plan: Plan, stored: unknown, change: unknown, inputs: AmendInputs): Begun {
  if (!isObject(stored)) fault(`Intake "${plan.name}": the first argument of amend is the stored record, as it was accepted.`);
  const occasion = inputs.occasion ?? (plan.occasions.includes('amend') ? 'amend' : undefined);
  const options: Inputs = occasion === undefined ? inputs : { ...inputs, occasion };
  const amending = new Amending();
  const run = prepare(plan, options, settingsOf(plan, options, AMEND), amending);
  const before = newFrame(plan.size);
  refillFields(plan.fields, stored, before, inputs.complete === true);
  amending.pair(run.frame, before);
  let changed: readonly string[] = [];
  if (isObject(change)) {
    new Merge(run, amending, inputs.whole === true).read(stored, change, before);
    changed = changedPaths(plan.fields, run.frame, before);
    judgeRead(run, plan.fields, run.rootFrames, before, []);
  } else readSubmission(run, change);
  judgeBetween(run);
  return { run, options, changed };
}

export function amended({ run, options, changed }: Begun): Amended<unknown, string> {
  const verdict = verdictOf(run, options.locale);
  return verdict.outcome === 'accepted' ? { ...verdict, changed } : verdict;
}

/** Fields with what is stored of them and what the change says of them. */
interface Level {
  /** As the application gave it; what it was read as stands in `before`. */
  readonly stored: Stored | undefined;
  readonly change: Stored;
  readonly frame: Frame;
  readonly before: Frame;
  /** Nothing stood here before: what the change does not mention takes its default, as in anything new. */
  readonly isNew: boolean;
  readonly indexes: readonly EntryKey[];
}

/** Puts the merged value into the frames of a run, without judging it. */
class Merge {
  readonly #run: Run;
  readonly #amending: Amending;
  readonly #isWhole: boolean;
  readonly #isForm: boolean;

  constructor(run: Run, amending: Amending, isWhole: boolean) {
    this.#run = run;
    this.#amending = amending;
    this.#isWhole = isWhole;
    this.#isForm = run.settings.isForm;
  }

  read(stored: Stored, change: Stored, before: Frame): void {
    const { plan, frame } = this.#run;
    this.#run.isReadingOnly = true;
    this.#fields(plan.fields, { stored, change, frame, before, isNew: false, indexes: [] });
    this.#run.isReadingOnly = false;
  }

  #fields(fields: FieldSteps, level: Level): void {
    for (const step of fields.steps) this.#field(step, level);
    refuseStrangers(this.#run, fields, level.change, level.indexes);
  }

  #field(step: FieldStep, level: Level): void {
    const sent = memberOf(level.change, step.key);
    const raw = this.#isForm && step.op === 'list' && step.isNamed ? namedByNumbers(sent) : sent;
    const isSilent = raw === undefined || (this.#isForm && isSilentEntry(step, raw));
    // Whether what was left out of the stored value is needed again is seen when all is there.
    if (step.isLeftOut && isSilent && !level.isNew) level.frame[step.slot] = undefined;
    else if (this.#isKept(step, raw, isSilent) && !(level.isNew && level.before[step.slot] === undefined))
      this.#keep(step, level.frame, level.before);
    else if (isObject(raw) && step.op !== 'scalar') this.#inside(step, raw, level);
    // A form sends no groups, only fields: each of them says for itself what becomes of it.
    else if (raw === undefined && this.#isForm && step.needed && step.op === 'group') this.#inside(step, {}, level);
    else if (step.op === 'scalar' && step.kind.merged && !this.#isWhole && !this.#isForm && isObject(raw)) this.#merged(step, raw, level);
    else this.#sent(step, raw, level);
  }

  /** A value that is an object of anything: members that the change does not mention stay. */
  #merged(step: ScalarStep, raw: Stored, level: Level): void {
    const was = level.before[step.slot];
    if (was instanceof Unstored) this.#unknown(step, level, was);
    else this.#sent(step, step.kind.merged?.(was, raw), level);
  }

  /** A merge patch keeps what it does not mention; a whole form only what no form can show again: secrets and files. */
  #isKept(step: FieldStep, raw: unknown, isSilent: boolean): boolean {
    if (!isSilent) return false;
    if (raw === undefined && !this.#isWhole) return true;
    return step.place.isSecret || step.kind.isObject === true;
  }

  #keep(step: FieldStep, frame: Frame, before: Frame): void {
    const held = before[step.slot];
    frame[step.slot] = held;
    if (step.op === 'group') this.#keepFields(step.inner, frame, before);
    else if (step.op === 'shapes') for (const fields of step.shapes.values()) this.#keepFields(fields, frame, before);
    else if (step.op === 'list' && Array.isArray(held)) frame[step.slot] = this.#keepEntries(step, held);
  }

  #keepFields(fields: FieldSteps, frame: Frame, before: Frame): void {
    for (const step of fields.steps) if (!step.isLeftOut) this.#keep(step, frame, before);
  }

  #keepEntries({ size, item }: ListStep, stored: Entries): Entries {
    const entries: Entries = stored.map((before) => {
      const entry = newFrame(size);
      this.#amending.pair(entry, before);
      this.#keep(item, entry, before);
      return entry;
    });
    if (stored.names) entries.names = stored.names;
    return entries;
  }

  /** Reads what stands there alone. */
  #sent(step: FieldStep, raw: unknown, { frame, before, indexes }: Level): void {
    const held = readValue(this.#run, step, raw, frame, indexes);
    frame[step.slot] = held;
    pairEntries(this.#amending, step, frame, before);
  }

  /** Goes into an object, member by member. */
  #inside(step: FieldStep, raw: Stored, level: Level): void {
    if (step.op === 'group') this.#group(step.inner, step, raw, level);
    else if (step.op === 'shapes') this.#shape(step, raw, level);
    else if (step.op === 'list' && step.isNamed) this.#table(step, raw, level);
    else this.#sent(step, raw, level);
  }

  #group(inner: FieldSteps, step: FieldStep, raw: Stored, level: Level): void {
    const known = ownOf(level.stored, step.key);
    const isNew = level.before[step.slot] === undefined;
    level.frame[step.slot] = PRESENT;
    this.#fields(inner, { ...level, stored: isObject(known) ? known : undefined, change: raw, isNew });
  }

  #shape(step: ShapesStep, raw: Stored, level: Level): void {
    const { frame, before, indexes } = level;
    const was = before[step.slot];
    const tag = this.#isWhole || Object.hasOwn(raw, step.tag) ? memberOf(raw, step.tag) : was;
    if (tag instanceof Unstored) {
      // Which shape it is would have to be known.
      this.#unknown(step, level, tag);
      return;
    }
    const fields = typeof tag === 'string' ? step.shapes.get(tag) : undefined;
    if (!fields) {
      frame[step.slot] = readValue(this.#run, step, { [step.tag]: tag }, frame, indexes);
      return;
    }
    const known = ownOf(level.stored, step.key);
    const stored = isObject(known) ? known : undefined;
    frame[step.slot] = tag;
    const isSame = was === tag;
    this.#fields(fields, {
      ...level,
      stored,
      change: raw,
      before: isSame ? before : this.#otherShape(fields, stored, before, was),
      isNew: !isSame,
    });
  }

  /** What stays of a record that takes another shape: the members of the same names, as the new shape reads them. */
  #otherShape(fields: FieldSteps, stored: Stored | undefined, before: Frame, was: unknown): Frame {
    const other = before.slice();
    refillFields(fields, stored ?? {}, other, !(was instanceof Unstored));
    for (const { slot } of fields.steps) {
      const held = other[slot];
      // What the other shape cannot read is not there for it.
      if (held instanceof Unstored && !(was instanceof Unstored)) other[slot] = undefined;
    }
    return other;
  }

  #table(step: ListStep, raw: Stored, level: Level): void {
    const { frame, before, indexes } = level;
    const was = before[step.slot];
    if (was instanceof Unstored && !this.#isWhole) {
      this.#unknown(step, level, was);
      return;
    }
    const stored: Entries = Array.isArray(was) ? was : [];
    const earlier = new Map(stored.names?.map((name, index) => [name, stored[index] as Frame]));
    const sent = Object.keys(raw);
    if (!sent.every(isStorable)) {
      frame[step.slot] = refuse(this.#run, step, indexes, 'readable');
      return;
    }
    const names = this.#isWhole ? sent : [...new Set([...earlier.keys(), ...sent])].filter((name) => memberOf(raw, name) !== null);
    if (names.length > step.most || !this.#run.spend(names.length)) {
      frame[step.slot] = refuse(this.#run, step, indexes, 'too-many');
      return;
    }
    const known = ownOf(level.stored, step.key);
    const entries: Entries = names.map((name) => {
      const entry = newFrame(step.size);
      const from = earlier.get(name);
      if (from) this.#amending.pair(entry, from);
      const own = ownOf(isObject(known) ? known : undefined, name);
      this.#field(step.item, {
        stored: { '*': own },
        change: { '*': memberOf(raw, name) },
        frame: entry,
        before: from ?? newFrame(step.size),
        isNew: !from,
        indexes: [...indexes, name],
      });
      return entry;
    });
    entries.names = names;
    frame[step.slot] = entries;
  }

  /** A change of some of what was not loaded, or cannot be read: nobody can say what becomes of it. */
  #unknown(step: FieldStep, { frame, indexes }: Level, { why, cause }: Unstored): void {
    const known = cause ?? new Error(`The stored record was given without "${step.place.path}", and the change goes into it.`);
    refuse(this.#run, step, indexes, 'readable', { why, cause: known });
    frame[step.slot] = UNSOUND;
    markUnsound([step], frame);
  }
}

/** An empty box says nothing; that of a secret neither where the secret may be blank. */
function isSilentEntry(step: FieldStep, raw: unknown): boolean {
  return isEmpty(step, raw) || (step.place.isSecret && typeof raw === 'string' && isBlank(raw));
}
