import type { Scalar, Verdict } from '../../core/basics/verdict.ts';
import type { ReadPart } from './form-part.ts';
import { type AnyIntake, called } from './options.ts';

export type PartName = 'body' | 'query' | 'params' | 'headers' | 'cookies' | 'uploads';

/** Judges one part. Options are those of `judge`, or of `amend` where something stored is changed. */
export interface PartToJudge {
  readonly name: PartName;
  readonly intake: AnyIntake;
  readonly read: ReadPart;
  readonly options: object;
  readonly amends?: {
    readonly stored: object;
    readonly itself: { readonly [column: string]: Scalar };
    readonly whole: boolean;
    readonly complete?: boolean;
  };
}

/** The verdicts of all parts as one: the value by part, and findings that say which part. */
export async function judgeParts(
  parts: readonly PartToJudge[],
  isSingle: boolean,
): Promise<{ verdict: Verdict<unknown>; changed: readonly string[] }> {
  const [only] = parts;
  if (only && isSingle) {
    const verdict = await judgePart(only);
    return { verdict, changed: changedIn(verdict) };
  }
  const verdicts = only && parts.length === 1 ? [await judgePart(only)] : await Promise.all(parts.map(judgePart));
  return { verdict: together(parts, verdicts), changed: verdicts.flatMap(changedIn) };
}

function changedIn(verdict: Verdict<unknown> & { readonly changed?: readonly string[] }): readonly string[] {
  return verdict.changed ?? NONE;
}
const NONE: readonly string[] = [];

export function judgePart({ intake, read, options, amends }: PartToJudge): Promise<Verdict<unknown>> {
  if (!amends) return called(intake).judge(read.submission, options);
  const { stored, ...rest } = amends;
  return called(intake).amend(stored, read.submission, { ...options, ...rest });
}

/** Verdicts of parts as one. */
export function together(parts: readonly PartToJudge[], verdicts: readonly Verdict<unknown>[]): Verdict<unknown> {
  const named = verdicts.map((verdict, index) => inPart(verdict, (parts[index] as PartToJudge).name));
  const trace = named.flatMap((verdict) => verdict.trace ?? []);
  const trials = named.flatMap((verdict) => verdict.trials ?? []);
  const common = {
    unsettled: named.flatMap(({ unsettled }) => unsettled),
    ...(trace.length > 0 && { trace }),
    ...(trials.length > 0 && { trials }),
  };
  const warnings = named.flatMap((verdict) => (verdict.outcome === 'rejected' ? [] : verdict.warnings));
  if (named.some(({ outcome }) => outcome === 'rejected')) {
    const findings = named.flatMap((verdict) => (verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings));
    return { outcome: 'rejected', findings, more: named.some((verdict) => verdict.outcome === 'rejected' && verdict.more), ...common };
  }
  if (named.some(({ outcome }) => outcome === 'undecided')) return { outcome: 'undecided', warnings, ...common };
  const values = named.map((verdict, index) => [(parts[index] as PartToJudge).name, (verdict as { readonly value?: unknown }).value]);
  return { outcome: 'accepted', value: Object.fromEntries(values), warnings, ...common };
}

/** Says of every place which part of the request it is in. */
function inPart(verdict: Verdict<unknown>, part: PartName): Verdict<unknown> {
  const placed = <T extends { readonly places: readonly object[] }>(list: readonly T[]) =>
    list.map((each) => {
      const places = each.places.map((place) => ({ ...place, part }));
      const moved = { ...each, places };
      const cause = (each as { readonly cause?: unknown }).cause;
      return cause === undefined ? moved : Object.defineProperty(moved, 'cause', { value: cause, enumerable: false });
    });
  const unsettled = placed(verdict.unsettled);
  if (verdict.outcome === 'rejected') return { ...verdict, unsettled, findings: placed(verdict.findings) };
  return { ...verdict, unsettled, warnings: placed(verdict.warnings) };
}
