import type { Verdict } from '../../../core/basics/verdict.ts';
import type { Amended } from '../../../core/changes/amend.ts';
import { planOf } from '../../../core/intake.ts';
import type { Asked as AskedOf } from '../../../workbench/wire/asked.ts';
import type { Judgement, OpenRule } from '../../../workbench/wire/judged.ts';
import type { LoadedIntake } from '../../basics/loading.ts';
import { Overheard } from '../../telling/explain.ts';
import { REASONS } from '../../telling/print.ts';
import { asForm } from './as-form.ts';
import { reasonsOf } from './reasons.ts';
import { type Made, objectIn, valueIn } from './settings-of.ts';
import { withoutSecrets } from './shown-value.ts';

/** Characters of an accepted value that are shown. */
const MOST_SHOWN = 40_000;

/** What is judged: a submission, or a change to a stored record. */
export interface Subject {
  readonly submission: unknown;
  readonly stored?: object;
  readonly itself?: object;
}

export function subjectOf({ submission, stored, itself, settings }: AskedOf): Subject {
  const value = valueIn(submission, 'The submission');
  return {
    submission: settings.as === 'form' ? asForm(value) : value,
    ...(stored !== undefined && { stored: objectIn(stored, 'The stored record') }),
    ...(itself !== undefined && itself.trim() !== '' && { itself: objectIn(itself, 'The key') }),
  };
}

export function judgeSubject(
  intake: LoadedIntake,
  { submission, stored, itself }: Subject,
  options: object,
): Promise<Verdict<unknown> | Amended<unknown, string>> {
  const all = { ...options, ...(itself && { itself }) };
  return stored ? intake.amend(stored, submission, all as never) : intake.judge(submission, all as never);
}

/** Judges, and tells all there is to tell about it. */
export async function judged(intake: LoadedIntake, subject: Subject, { options, given, records }: Made): Promise<Judgement> {
  const overheard = new Overheard();
  const begun = performance.now();
  const verdict = await judgeSubject(intake, subject, {
    ...options,
    explain: true,
    ...(records && { records: overheard.listeningTo(records) }),
  });
  const took = performance.now() - begun;
  const heard = overheard.take();
  const plan = planOf(intake);
  const isAccepted = verdict.outcome === 'accepted';
  const isRejected = verdict.outcome === 'rejected';
  return {
    outcome: verdict.outcome,
    ...(isAccepted && { value: shortened(JSON.stringify(withoutSecrets(plan.fields, verdict.value), null, 2)) }),
    ...(isAccepted && 'changed' in verdict && { changed: verdict.changed }),
    findings: isRejected ? verdict.findings : verdict.warnings,
    hasMore: isRejected && verdict.more,
    open: verdict.unsettled.map(openRule),
    ...reasonsOf(intake, subject.submission, given, verdict, heard, options.locale ?? 'en'),
    rounds: heard.reduce((most, { round }) => Math.max(most, round), 0),
    took,
    now: options.now.toISOString(),
  };
}

function openRule({ use, why, cause, places }: Verdict<unknown>['unsettled'][number]): OpenRule {
  const told = cause instanceof Error ? cause.message || (cause as { readonly code?: string }).code : undefined;
  return { use, code: why, why: REASONS[why], ...(told && { cause: told }), pointers: places.map(({ pointer }) => pointer) };
}

function shortened(text: string): string {
  return text.length > MOST_SHOWN
    ? `${text.slice(0, MOST_SHOWN)}\n… and ${(text.length - MOST_SHOWN).toLocaleString('en')} characters more`
    : text;
}
