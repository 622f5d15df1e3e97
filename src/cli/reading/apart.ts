// What `--rejected` writes beside a row, for the person who mends it. It is left out when the row is read again.

/** Where the row stood, and what was found. */
export const ROW = '#row';
export const FINDINGS = '#findings';

export const KEPT_APART: ReadonlySet<string> = new Set([ROW, FINDINGS]);

/** A submission without what was written beside it. */
export function withoutNotes(submission: unknown): unknown {
  if (typeof submission !== 'object' || submission === null || Array.isArray(submission)) return submission;
  if (!Object.hasOwn(submission, ROW) && !Object.hasOwn(submission, FINDINGS)) return submission;
  return Object.fromEntries(Object.entries(submission).filter(([name]) => !KEPT_APART.has(name)));
}
