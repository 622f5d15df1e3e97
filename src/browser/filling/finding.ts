import type { Finding, Verdict } from '../../core/basics/verdict.ts';
import type { Renaming } from './renaming.ts';

/** What is shown of a finding, whether the page or the server has found it. */
export interface ShownFinding {
  readonly rule: string;
  /** JSON Pointers; the finding stands at the first. Without any it is about the whole form. */
  readonly at: readonly string[];
  readonly message: string;
  readonly severity?: 'warning';
}

/** Stands for the rule of a finding that a page has come with, which tells its sentence only. */
export const UNTOLD = '';

export const isError = ({ severity }: ShownFinding): boolean => severity !== 'warning';

/** The same for what is the same finding, whoever has found it. */
export function keyOf({ rule, at }: ShownFinding): string {
  return JSON.stringify([rule, at]);
}

/** The same for what is said alike: two uses of one rule may stand at one place, and a message may come to tell other numbers. */
export function lineOf({ rule, at, message }: ShownFinding): string {
  return JSON.stringify([rule, at, message]);
}

/** A finding where its fields stand now; none when one of them is gone. */
export function renamed(finding: ShownFinding, renaming: Renaming): ShownFinding | undefined {
  const at = finding.at.flatMap((pointer) => renaming(pointer) ?? []);
  return at.length === finding.at.length ? { ...finding, at } : undefined;
}

/** What a verdict has found, of an accepted one its warnings. */
export function findingsOf(verdict: Verdict<unknown>): ShownFinding[] {
  const findings: readonly Finding[] = verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings;
  return findings.map(({ rule, places, message, severity }) => ({
    rule,
    at: places.map(({ pointer }) => pointer),
    message,
    ...(severity === 'warning' && { severity }),
  }));
}

/** The nearest pointer that `has` knows: the value's own, or what it stands in; the empty one where there is none. */
export function nearest(pointer: string, has: (pointer: string) => boolean): string {
  let near = pointer;
  while (near !== '' && !has(near)) near = near.slice(0, near.lastIndexOf('/'));
  return near;
}
