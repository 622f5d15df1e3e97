import { type AnyField, type BoundRule, type Fields, intake, type Options, type Records, type Verdict } from 'jestril';

/** Judges one value as the field `value` of an intake. */
export function judgeValue(field: AnyField, raw: unknown, options: Options = {}): Verdict<{ value?: unknown }> {
  return looseIntake({ value: field }, [], { zone: 'Europe/Oslo' }).judgeLocally(raw === MISSING ? {} : { value: raw }, options) as never;
}
export const MISSING = Symbol('missing');

/** What came of it, short enough for a table: the value when accepted, else the rules that failed. */
export function told(verdict: Verdict<{ value?: unknown }>): unknown {
  if (verdict.outcome === 'accepted') return { value: verdict.value.value };
  return verdict.outcome === 'rejected' ? rulesOf(verdict) : verdict.unsettled.map(({ rule, why }) => `${rule}: ${why}`);
}

export function rulesOf(verdict: Verdict<unknown>): string[] {
  return verdict.outcome === 'rejected' ? verdict.findings.map(({ rule }) => rule) : [];
}

/** `rule /pointer /pointer`, for each finding. */
export function blamesOf(verdict: Verdict<unknown>): string[] {
  return verdict.outcome === 'rejected'
    ? verdict.findings.map(({ rule, places }) => [rule, ...places.map(({ pointer }) => pointer)].join(' '))
    : [];
}

/** The sentences; versions of ICU differ in which blank stands before AM and PM. */
export function messagesOf(verdict: Verdict<unknown>): string[] {
  const findings = verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings;
  return findings.map(({ message }) => message.replaceAll('\u202f', ' '));
}

/** An intake of loosely typed rules, for tables of faults. */
export function looseIntake(fields: Fields, rules: readonly unknown[], more: object = {}): LooseIntake {
  return intake('loose', fields, { ...more, rules: rules as BoundRule<Fields>[] }) as LooseIntake;
}
export interface LooseIntake {
  judge(submission: unknown, options?: Options & { given?: object; itself?: object }): Promise<Verdict<object>>;
  judgeLocally(submission: unknown, options?: Options & { given?: object }): Verdict<object>;
}

/** Records that note what they were asked, and answer as told. */
export function watched(records: Records) {
  const rounds: Parameters<Records['ask']>[0][] = [];
  const asked: Records = {
    ask(questions, signal) {
      rounds.push(questions);
      return records.ask(questions, signal);
    },
  };
  return { records: asked, rounds };
}
