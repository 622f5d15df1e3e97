import type { Finding, TraceLine } from '../../core/basics/verdict.ts';

// What comes of a submission, and why.

/** A condition in words, and what it and its parts came to. */
export interface ShownCondition {
  readonly words: string;
  readonly outcome: 'held' | 'failed' | 'skipped' | 'unsettled';
  readonly because: readonly string[];
  readonly parts: readonly ShownCondition[];
}

/** One question to the store. */
export interface ShownQuestion {
  /** Counted from 1. */
  readonly round: number;
  readonly collection: string;
  readonly where: string;
  readonly found: string;
}

/** What became of one use of a rule on one entry, or on the submission as a whole. */
export interface Reason {
  readonly use: string;
  readonly rule: string;
  readonly step: TraceLine['step'];
  readonly outcome: TraceLine['outcome'];
  /** In words. */
  readonly why?: string;
  readonly because: readonly string[];
  readonly entry?: string;
  readonly isTrial: boolean;
  readonly read: readonly { readonly role: string; readonly field: string; readonly value: string }[];
  readonly asked: readonly ShownQuestion[];
  readonly conditions: readonly ShownCondition[];
}

export interface OpenRule {
  readonly use: string;
  readonly code: string;
  /** In words. */
  readonly why: string;
  readonly cause?: string;
  readonly pointers: readonly string[];
}

/** What judging came to. */
export interface Judgement {
  readonly outcome: 'accepted' | 'rejected' | 'undecided';
  /** As JSON; secrets are withheld. */
  readonly value?: string;
  /** Of an accepted change: the paths that change. */
  readonly changed?: readonly string[];
  readonly findings: readonly Finding[];
  readonly hasMore: boolean;
  readonly open: readonly OpenRule[];
  readonly reasons: readonly Reason[];
  /** Of very many: how many are not listed. All that did not hold are. */
  readonly leftOut: number;
  /** Questions to the store, in rounds. */
  readonly rounds: number;
  /** Of the process alone, in milliseconds. */
  readonly took: number;
  /** The moment that counted as now. */
  readonly now: string;
}

/** Where along a number or day the verdict turns. */
export interface Turning {
  readonly pointer: string;
  readonly sort: 'number' | 'day';
  readonly values: readonly (string | number)[];
  readonly bands: readonly Band[];
}

/** Values next to each other that come to the same. */
export interface Band {
  readonly from: string | number;
  readonly to: string | number;
  readonly outcome: Judgement['outcome'];
  readonly by: readonly string[];
}

export interface PatternAsked {
  readonly source: string;
  readonly flags: string;
  readonly texts: readonly string[];
}

export interface PatternTold {
  /** `linear`, or why not: no expression at all, or one that may take very long. */
  readonly state: 'linear' | 'refused' | 'broken';
  readonly why?: string;
  readonly matches: readonly {
    readonly text: string;
    readonly isMatch: boolean;
    readonly from?: number;
    readonly to?: number;
    readonly problem?: string;
  }[];
}
