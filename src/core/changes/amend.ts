import { fault } from '../basics/fault.ts';
import { isBlank } from '../basics/text.ts';
import type { Verdict } from '../basics/verdict.ts';
import { decide, leaveAllOpen, prepare, settingsOf } from '../judging/judge.ts';
import { AMEND, type Inputs } from '../judging/options.ts';
import { judgeBetween } from '../loop/cases.ts';
import { readSubmission } from '../loop/read.ts';
import { type Entries, type FieldStep, type FieldSteps, type Frame, type Plan, UNSOUND, type Unstored } from '../plan/plan.ts';
import { Amending, changedPaths } from '../run/amending.ts';
import { verdictOf } from '../run/finish.ts';
import { newFrame } from '../run/frames.ts';
import { isEmpty, isObject, memberOf } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { refuseStrangers } from '../run/strangers.ts';
import { markUnsound, refuse } from '../run/unsound.ts';
import type { Level, Merging } from '../steps/changing.ts';
import { readValue } from '../steps/reading.ts';
import { judgeRead } from './judge-read.ts';
import { pairEntries } from './pair.ts';
import { refillFields, type Stored } from './refill.ts';
import { changeOf } from './steps.ts';

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

/** Puts the merged value into the frames of a run, without judging it. */
class Merge implements Merging {
  readonly run: Run;
  readonly amending: Amending;
  readonly isWhole: boolean;
  readonly isForm: boolean;
  readonly refill = refillFields;

  constructor(run: Run, amending: Amending, isWhole: boolean) {
    this.run = run;
    this.amending = amending;
    this.isWhole = isWhole;
    this.isForm = run.settings.isForm;
  }

  read(stored: Stored, change: Stored, before: Frame): void {
    const { plan, frame } = this.run;
    this.run.isReadingOnly = true;
    this.fields(plan.fields, { stored, change, frame, before, isNew: false, indexes: [] });
    this.run.isReadingOnly = false;
  }

  fields(fields: FieldSteps, level: Level): void {
    for (const step of fields.steps) this.field(step, level);
    refuseStrangers(this.run, fields, level.change, level.indexes);
  }

  field(step: FieldStep, level: Level): void {
    const sent = memberOf(level.change, step.key);
    const raw = this.isForm ? (changeOf(step).fromForm?.(sent) ?? sent) : sent;
    const isSilent = raw === undefined || (this.isForm && isSilentEntry(step, raw));
    // Whether what was left out of the stored value is needed again is seen when all is there.
    if (step.isLeftOut && isSilent && !level.isNew) level.frame[step.slot] = undefined;
    else if (this.#isKept(step, raw, isSilent) && !(level.isNew && level.before[step.slot] === undefined))
      this.#keep(step, level.frame, level.before);
    else if (isObject(raw)) changeOf(step).merge(this, step, raw, level);
    // A form sends no groups, only fields: each of them says for itself what becomes of it.
    else if (raw === undefined && this.isForm && step.needed && step.sort.isOpen) changeOf(step).merge(this, step, {}, level);
    else this.sent(step, raw, level);
  }

  /** A merge patch keeps what it does not mention; a whole form only what no form can show again: secrets and files. */
  #isKept(step: FieldStep, raw: unknown, isSilent: boolean): boolean {
    if (!isSilent) return false;
    if (raw === undefined && !this.isWhole) return true;
    return step.place.isSecret || step.kind.isObject === true;
  }

  #keep(step: FieldStep, frame: Frame, before: Frame): void {
    const held = before[step.slot];
    frame[step.slot] = held;
    for (const { steps, isEntry } of step.inside) {
      if (!isEntry) for (const inner of steps) if (!inner.isLeftOut) this.#keep(inner, frame, before);
      if (isEntry && Array.isArray(held)) frame[step.slot] = this.#keepEntries(steps[0] as FieldStep, held);
    }
  }

  #keepEntries(item: FieldStep, stored: Entries): Entries {
    const entries: Entries = stored.map((before) => {
      const entry = newFrame(before.length);
      this.amending.pair(entry, before);
      this.#keep(item, entry, before);
      return entry;
    });
    if (stored.names) entries.names = stored.names;
    return entries;
  }

  sent(step: FieldStep, raw: unknown, { frame, before, indexes }: Level): void {
    frame[step.slot] = readValue(this.run, step, raw, frame, indexes);
    pairEntries(this.amending, step, frame, before);
  }

  unknown(step: FieldStep, { frame, indexes }: Level, { why, cause }: Unstored): void {
    const known = cause ?? new Error(`The stored record was given without "${step.place.path}", and the change goes into it.`);
    refuse(this.run, step, indexes, 'readable', { why, cause: known });
    frame[step.slot] = UNSOUND;
    markUnsound([step], frame);
  }
}

/** An empty box says nothing; that of a secret neither where the secret may be blank. */
function isSilentEntry(step: FieldStep, raw: unknown): boolean {
  return isEmpty(step, raw) || (step.place.isSecret && typeof raw === 'string' && isBlank(raw));
}
