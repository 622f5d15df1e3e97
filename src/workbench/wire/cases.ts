import type { Settings } from './asked.ts';
import type { Judgement } from './judged.ts';

// Submissions that are kept.

/** What a kept case came to, in short: the outcome, and each finding by its use and place. */
export interface Came {
  readonly outcome: Judgement['outcome'];
  readonly found: readonly string[];
}

/** A submission that is kept in a file, with how it is judged and what it came to. */
export interface KeptCase {
  readonly name: string;
  readonly intake: string;
  readonly submission: unknown;
  readonly stored?: unknown;
  readonly itself?: unknown;
  readonly settings: Omit<Settings, 'given'> & { readonly given?: unknown };
  readonly came: Came;
  /** It is a proof that the tests run. */
  readonly isProof?: boolean;
  /** The rules that it is a sample of, in the same file. */
  readonly samples?: readonly KeptSample[];
}

export interface KeptSample {
  readonly rule: string;
  readonly holds: boolean;
  readonly sample: { readonly [name: string]: unknown };
}

/** A case, and what tells whether it has become another since. */
export interface CaseRead {
  readonly kept: KeptCase;
  readonly read: string;
}

/** A change to one case, which is made if the case is still the one that was read. */
export interface CaseChange {
  readonly name: string;
  /** None where there was none of that name. */
  readonly read?: string | null;
  /** Members that it gets, all of them where it is new; nothing to forget it. */
  readonly put?: Partial<KeptCase> | null;
  /** Members that are taken away. */
  readonly without?: readonly string[];
}

/** What has come of changes. */
export interface CasesChanged {
  /** The names of cases that were changed meanwhile by somebody else: nothing was written of them. */
  readonly conflicts: readonly string[];
  /** Why no proof was written. */
  readonly proofProblem?: string;
}

/** What a case comes to now. */
export interface CaseState {
  readonly name: string;
  readonly now?: Came;
  readonly problem?: string;
  readonly isChanged: boolean;
}
