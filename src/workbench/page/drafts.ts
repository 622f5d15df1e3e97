import type { KeptCase } from '../wire/cases.ts';
import type { ShownIntake } from '../wire/shown.ts';

/** What is being edited: a submission, or a change to a stored record. */
export interface Draft {
  readonly intake: string;
  readonly submission: string;
  readonly stored?: string;
  readonly itself?: string;
}

// A page that is loaded again has what was typed. It is forgotten with the tab, since it may hold something secret.

const keyOf = (module: string, intake: string) => `jestril ${module} ${intake}`;

export function remember(module: string, draft: Draft): void {
  try {
    sessionStorage.setItem(keyOf(module, draft.intake), JSON.stringify(draft));
    sessionStorage.setItem(`jestril ${module}`, draft.intake);
  } catch {
    // Something very large is not remembered.
  }
}

/** The intake that was open the last time, else the first. */
export function remembered(module: string, intakes: readonly string[]): string {
  const last = sessionStorage.getItem(`jestril ${module}`);
  return last !== null && intakes.includes(last) ? last : (intakes[0] as string);
}

/** What was typed the last time, else the first case that is kept, else an example. */
export function draftOf(module: string, { name, example }: ShownIntake, cases: readonly KeptCase[]): Draft {
  const last = sessionStorage.getItem(keyOf(module, name));
  if (last !== null) return JSON.parse(last) as Draft;
  const kept = cases.find(({ intake, stored }) => intake === name && stored === undefined);
  return { intake: name, submission: JSON.stringify(kept?.submission ?? example, null, 2) };
}
