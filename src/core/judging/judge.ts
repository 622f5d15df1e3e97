import { casesOutside } from '../asking/cases-outside.ts';
import { fault, nearest } from '../basics/fault.ts';
import type { Verdict } from '../basics/verdict.ts';
import { UNREADABLE } from '../declared/kind.ts';
import type { Reads } from '../declared/rule.ts';
import { judgeBetween, leaveOpen } from '../loop/cases.ts';
import { readGiven, readSubmission } from '../loop/read.ts';
import type { Plan } from '../plan/plan.ts';
import { walkSteps } from '../plan/walk.ts';
import type { Amending } from '../run/amending.ts';
import { verdictOf } from '../run/finish.ts';
import { Run } from '../run/run.ts';
import type { Settings } from '../run/settings.ts';
import type { Records } from '../stored/records.ts';
import { codeOf } from './busy.ts';
import { checkOptions, type Inputs, JUDGE } from './options.ts';

// The loop executor: a judgement from its first step to its last. Everything before the first `await` is synchronous,
// and only a judgement that asks something waits at all.

export async function judge(plan: Plan, submission: unknown, options: Inputs = NO_OPTIONS): Promise<Verdict<unknown>> {
  const run = begin(plan, submission, options);
  // Not `await` alone: it costs a third of a judgement that has nothing to wait for.
  const deciding = decide(run, options);
  if (deciding) await deciding;
  return verdictOf(run, options.locale);
}

/** Steps 6 and 7, where there are any. What asks is loaded when something is asked: a page that judges by itself needs none of it. */
export function decide(run: Run, options: Inputs): Promise<void> | undefined {
  const { record, outside } = run.plan;
  if (record.length === 0 && outside.length === 0) return undefined;
  // The clock is read before anybody is waited for.
  void run.at.now;
  return decideByAsking ? decideByAsking(run, options) : loadAsking().then((asking) => asking(run, options));
}

let decideByAsking: typeof import('./decide.ts').decideByAsking | undefined;

async function loadAsking(): Promise<NonNullable<typeof decideByAsking>> {
  const asking = await import('./decide.ts');
  decideByAsking = asking.decideByAsking;
  return decideByAsking;
}

export function judgeLocally(plan: Plan, submission: unknown, options: Inputs = NO_OPTIONS): Verdict<unknown> {
  const run = begin(plan, submission, options);
  leaveAllOpen(run, options);
  return verdictOf(run, options.locale);
}

/** Steps 6 and 7 where nobody is asked. */
export function leaveAllOpen(run: Run, { itself }: Inputs): void {
  const { record, outside, name } = run.plan;
  // An error costs as much as the rest of a judgement.
  if (record.length === 0 && outside.length === 0) return;
  const cause = new Error(
    `Intake "${name}" has rules that ask something, and was judged without asking; use judge or amend for a final verdict.`,
  );
  // Each such rule looks into some collection, and collections bring what leaves it open; what a run is they do not know.
  run.plan.collections[0]?.leaveOpen(run as never, itself, cause);
  for (const item of casesOutside(run)) leaveOpen(run, item, 'not-asked', cause);
}

/** Steps 1 to 5. */
export function begin(plan: Plan, submission: unknown, options: Inputs, settings = settingsOf(plan, options)): Run {
  const run = prepare(plan, options, settings);
  readSubmission(run, submission);
  judgeBetween(run);
  return run;
}

/** A run that knows its settings and what is given. */
export function prepare(plan: Plan, options: Inputs, settings: Settings, amending?: Amending): Run {
  const run = new Run(plan, settings, amending, settings.isForm || settings.explain || amending ? undefined : codeOf(plan));
  if (options.itself !== undefined) checkItself(plan, options.itself);
  checkScope(plan, options.records);
  if (plan.given.steps.length > 0) readGivenOrThrow(run, options.given);
  return run;
}

/** The stored record that is judged again is known by its key, and by nothing else. */
export function checkItself({ name, storedIn }: Plan, itself: Reads): void {
  if (!storedIn) return;
  const { key } = storedIn;
  const shape = `itself has to be { ${key.map((column) => `${column}: …`).join(', ')} }, the key of ${storedIn.name}`;
  if (typeof itself !== 'object') fault(`Intake "${name}": ${shape}.`);
  const wrong = Object.keys(itself).find((column) => !key.includes(column));
  if (wrong !== undefined || key.some((column) => itself[column] === undefined || itself[column] === null))
    fault(`Intake "${name}": ${shape}${wrong === undefined ? '' : `, and names "${wrong}"`}.`);
}

/** Records of many owners have to be asked for those of one. */
export function checkScope({ name, record, collections }: Plan, records: Records | undefined): void {
  if (!records || record.length === 0) return;
  for (const { name: collection, scope, columns } of collections) {
    for (const column of scope) {
      const value = records.scope?.[column];
      if (value === undefined || value === null)
        fault(
          `Intake "${name}" looks into "${collection}", where rows are kept apart by "${column}", and the records do not say whose are asked for; give records.within({ ${column}: … }).`,
        );
      const kind = columns[column]?.spec;
      if (kind && kind.json(value) === UNREADABLE)
        fault(`Intake "${name}": the records are those within ${column} ${JSON.stringify(value)}, which is no ${kind.name}.`);
    }
  }
}

const NO_OPTIONS: Inputs = Object.freeze({});
const usualSettings = new WeakMap<Plan, Settings>();

/** @param known the options that the call knows */
export function settingsOf(plan: Plan, options: Inputs, known = JUDGE): Settings {
  if (options !== NO_OPTIONS) return settingsFor(plan, options, known);
  let usual = usualSettings.get(plan);
  if (!usual) {
    usual = settingsFor(plan, options, known);
    usualSettings.set(plan, usual);
  }
  return usual;
}

function settingsFor(plan: Plan, options: Inputs, known: ReadonlySet<string>): Settings {
  checkOptions(plan.name, options, known);
  const occasion = options.occasion ?? plan.occasions[0] ?? '';
  if (options.occasion !== undefined && !plan.occasions.includes(occasion)) {
    fault(`Intake "${plan.name}" knows no occasion "${occasion}"; it declares ${plan.occasions.join(', ')}.`);
  }
  return {
    now: options.now,
    zone: options.zone ?? plan.zone,
    occasion,
    isForm: options.as === 'form',
    report: options.report ?? plan.report,
    signal: options.signal,
    explain: options.explain ?? false,
    refuseStrangers: plan.refuseStrangers,
    shown: options.shown && shownBoxes(plan, options.shown),
  };
}

/** Check boxes that a form shows; a path that is none is a mistake of the page. */
function shownBoxes(plan: Plan, paths: readonly string[]): ReadonlySet<string> {
  const boxes: string[] = [];
  walkSteps(plan.fields, ({ kind, place }) => {
    if (kind.unsent !== undefined) boxes.push(place.path);
  });
  for (const path of paths)
    if (!boxes.includes(path)) fault(`Intake "${plan.name}": shown names "${path}", which is no flag; ${nearest(path, boxes)}`);
  return new Set(paths);
}

/** An unsound given value is the application's fault, and must never pass for an absent one. */
function readGivenOrThrow(run: Run, given: unknown): void {
  const asJson = new Run(run.plan, { ...run.settings, isForm: false, report: 'everything', refuseStrangers: false });
  readGiven(asJson, given);
  const unsound = [...asJson.failures.filter(({ info }) => info.severity === 'error'), ...asJson.unsettled];
  if (unsound.length > 0) {
    const names = [...new Set(unsound.flatMap(({ info, spots }) => spots.map(({ place }) => `${place.path} (${info.rule})`)))];
    fault(`Intake "${run.plan.name}": given values are not sound: ${names.join(', ')}. Supply them in the option "given".`);
  }
  for (const [slot, value] of asJson.frame.entries()) run.frame[slot] = value;
}
