import { fault, nearest } from '../fault.ts';
import type { Options } from '../intake.ts';
import { UNREADABLE } from '../kinds/kind.ts';
import type { Reads } from '../rules/definition.ts';
import type { Records } from '../stored/records.ts';
import type { Verdict } from '../verdict.ts';
import type { Amending } from './amending.ts';
import { Claims } from './claims.ts';
import { judgeBetween, leaveOpen, type Ready } from './evaluate.ts';
import { verdictOf } from './finish.ts';
import { askOutside, casesOutside } from './outside.ts';
import type { Plan } from './plan.ts';
import { Questions } from './questions.ts';
import { readGiven, readSubmission } from './read.ts';
import { Run, type Settings } from './run.ts';
import { askRounds, RecordRules, type Shared } from './stored.ts';
import { TimeLimit } from './time-limit.ts';
import { walkSteps } from './walk.ts';

// The loop executor: a judgement from its first step to its last. Everything before the first `await` is synchronous,
// and only a judgement that asks something waits at all.

/** Milliseconds that the records may take when the caller sets no limit. */
const RECORDS_WITHIN = 10_000;

export type Inputs = Options & { readonly given?: unknown; readonly itself?: Reads };

export async function judge(plan: Plan, submission: unknown, options: Inputs = {}): Promise<Verdict<unknown>> {
  const run = begin(plan, submission, options);
  // Not `await` alone: it costs a third of a judgement that has nothing to wait for.
  const deciding = decide(run, options);
  if (deciding) await deciding;
  return verdictOf(run, options.locale);
}

/** Steps 6 and 7, where there are any. */
export function decide(run: Run, options: Inputs): Promise<void> | undefined {
  const { record, outside } = run.plan;
  return record.length > 0 || outside.length > 0 ? decideByAsking(run, options) : undefined;
}

/** Step 6 alone. */
export async function decideByRecords(run: Run, options: Inputs): Promise<void> {
  if (run.plan.record.length > 0) await judgeByRecords(run, options, alone(options.records));
}

async function decideByAsking(run: Run, options: Inputs): Promise<void> {
  const { record, outside } = run.plan;
  const ready = record.length > 0 ? await judgeByRecords(run, options, alone(options.records)) : [];
  if (outside.length > 0 || ready.length > 0) await askOutside(run, ready);
}

export function judgeLocally(plan: Plan, submission: unknown, options: Inputs = {}): Verdict<unknown> {
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
  if (record.length > 0) new RecordRules(run, record, itself, alone()).leaveOpen('not-asked', cause);
  for (const item of casesOutside(run)) leaveOpen(run, item, 'not-asked', cause);
}

function alone(records?: Records): Shared {
  return { questions: new Questions(records?.scope), claims: new Claims() };
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
  const run = new Run(plan, settings, amending);
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

export function settingsOf(plan: Plan, options: Inputs): Settings {
  const occasion = options.occasion ?? plan.occasions[0] ?? '';
  if (options.occasion !== undefined && !plan.occasions.includes(occasion)) {
    fault(`Intake "${plan.name}" knows no occasion "${occasion}"; it declares ${plan.occasions.join(', ')}.`);
  }
  return {
    now: options.now ?? new Date(),
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

/** Step 6; gives the outside checks that had to wait for records. */
async function judgeByRecords(run: Run, inputs: Inputs, shared: Shared): Promise<readonly Ready[]> {
  const rules = recordRulesOf(run, inputs, shared);
  return rules && inputs.records ? ((await settleAll([rules], inputs.records, inputs, shared))[0] as readonly Ready[]) : [];
}

/** The record rules of a judgement, where there is something to ask and somebody to answer. */
export function recordRulesOf(run: Run, { records, itself }: Inputs, shared: Shared): RecordRules | undefined {
  const rules = new RecordRules(run, run.plan.record, itself, shared);
  if (rules.isEmpty) return undefined;
  if (records) return rules;
  const { name, collections } = run.plan;
  const looked = collections.map((collection) => `"${collection.name}"`).join(', ');
  rules.leaveOpen(
    'not-asked',
    new Error(`Intake "${name}" looks into ${looked}, and no records were given; give them in the option "records".`),
  );
  return undefined;
}

/** Asks for all these judgements together, and settles each; gives the outside checks that had to wait. */
export async function settleAll(
  all: readonly RecordRules[],
  records: Records,
  { within = RECORDS_WITHIN, signal }: Inputs,
  { questions, claims }: Shared,
  turn?: Promise<unknown>,
): Promise<(readonly Ready[])[]> {
  const limit = new TimeLimit(within, signal);
  try {
    await askRounds(all, questions, records, limit);
    // Rows claim in their order, however soon the store has answered.
    if (turn) await turn;
    const ready = all.map((rules) => {
      claims.nextRow();
      return rules.settle();
    });
    await askRounds(all, questions, records, limit);
    for (const rules of all) rules.tell();
    return ready;
  } finally {
    limit.end();
  }
}
