import { fault } from '../fault.ts';
import type { Options } from '../intake.ts';
import type { Reads } from '../rules/definition.ts';
import type { Verdict } from '../verdict.ts';
import { eachCase, judgeBetween, leaveOpen, type Ready, skip } from './evaluate.ts';
import { verdictOf } from './finish.ts';
import { askOutside, casesOutside } from './outside.ts';
import type { Plan } from './plan.ts';
import { readGiven, readSubmission } from './read.ts';
import { Run, type Settings } from './run.ts';
import { RecordRules } from './stored.ts';
import { TimeLimit } from './time-limit.ts';

// The loop executor: a judgement from its first step to its last. Everything before the first `await` is synchronous,
// and only a judgement that asks something waits at all.

/** Milliseconds that the records may take when the caller sets no limit. */
const RECORDS_WITHIN = 10_000;

type Inputs = Options & { readonly given?: unknown; readonly itself?: Reads };

export async function judge(plan: Plan, submission: unknown, options: Inputs = {}): Promise<Verdict<unknown>> {
  const run = begin(plan, submission, options);
  const ready = plan.record.length > 0 ? await judgeByRecords(run, options) : [];
  if (plan.outside.length > 0 || ready.length > 0) await askOutside(run, ready);
  return verdictOf(run, options.locale);
}

export function judgeLocally(plan: Plan, submission: unknown, options: Inputs = {}): Verdict<unknown> {
  const run = begin(plan, submission, options);
  if (plan.record.length > 0) new RecordRules(run, plan.record, options.itself).leaveOpen('not-asked');
  for (const item of casesOutside(run)) leaveOpen(run, item, 'not-asked');
  return verdictOf(run, options.locale);
}

/** Steps 1 to 5. */
function begin(plan: Plan, submission: unknown, options: Inputs): Run {
  const run = new Run(plan, settingsOf(plan, options));
  if (plan.given.steps.length > 0) readGivenOrThrow(run, options.given);
  readSubmission(run, submission);
  judgeBetween(run);
  return run;
}

function settingsOf(plan: Plan, options: Inputs): Settings {
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
  };
}

/** An unsound given value is the application's fault, and must never pass for an absent one. */
function readGivenOrThrow(run: Run, given: unknown): void {
  const asJson = new Run(run.plan, { ...run.settings, isForm: false, report: 'everything' });
  readGiven(asJson, given);
  const unsound = [...asJson.failures.filter(({ info }) => info.severity === 'error'), ...asJson.unsettled];
  if (unsound.length > 0) {
    const names = [...new Set(unsound.flatMap(({ info, spots }) => spots.map(({ place }) => `${place.path} (${info.rule})`)))];
    fault(`Intake "${run.plan.name}": given values are not sound: ${names.join(', ')}. Supply them in the option "given".`);
  }
  for (const [slot, value] of asJson.frame.entries()) run.frame[slot] = value;
}

/** Step 6; gives the outside checks that had to wait for records. */
async function judgeByRecords(run: Run, { records, within = RECORDS_WITHIN, itself }: Inputs): Promise<readonly Ready[]> {
  const { plan, settings } = run;
  if (settings.report === 'firstOfAll' && run.hasErrors) {
    for (const use of plan.record) eachCase(run, use, (item) => skip(run, item, 'already-failed'));
    return [];
  }
  const rules = new RecordRules(run, plan.record, itself);
  if (!rules.isEmpty && !records) rules.leaveOpen('not-asked');
  if (rules.isEmpty || !records) return [];
  const limit = new TimeLimit(within, settings.signal);
  try {
    await rules.ask(records, limit);
  } finally {
    limit.end();
  }
  return rules.settle();
}
