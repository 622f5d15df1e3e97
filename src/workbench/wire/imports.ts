import type { Counts } from '../../screening/summary.ts';
import type { Settings, Told } from './asked.ts';

// The verdicts of an import.

/** A use of a rule that found something in an import, or could not be decided. */
export interface ImportedRule {
  readonly use: string;
  readonly severity: 'error' | 'warning' | 'open';
  /** Of the first row; of an open one, why. */
  readonly message: string;
  readonly count: number;
  /** The numbers of the first rows. */
  readonly rows: readonly number[];
}

/** The verdicts of a screening or a check. */
export interface Import {
  readonly path: string;
  readonly rows: number;
  readonly counts: Counts;
  readonly rules: readonly ImportedRule[];
  /** What became of the rows, from the first to the last, in parts of them. */
  readonly columns: readonly Counts[];
  /** The intake that it was judged by, where that is known. */
  readonly intake?: string;
}

/** A row of an import, to be judged again. */
export interface ImportedRow {
  readonly row: number;
  readonly place: string;
  readonly outcome: keyof Counts;
  readonly findings: readonly { readonly use: string; readonly message: string; readonly at: readonly string[] }[];
  readonly open: readonly { readonly use: string; readonly why: string }[];
  /** As JSON. */
  readonly submission: string;
  readonly intake: string;
  /** How it was judged, as far as that is known. */
  readonly settings: Partial<Settings>;
  /** Why it may be another row. */
  readonly doubt?: string;
}

/** A row by its number, and the intake to judge it by where the verdicts name none. */
export interface RowAsked {
  readonly path: string;
  readonly row: number;
  readonly intake: string;
}

/** What a row of a file holds, and how it is read; or why that is not known. */
export type Row = Told<{ readonly submission: unknown; readonly as: Settings['as'] }>;

/** Where a row of a file stands, counted from 1. */
export interface RowPlace {
  readonly line?: number | undefined;
  readonly entry?: number | undefined;
}

/** Rows that a rule has found fault with, to be judged again. */
export interface AlikeAsked {
  readonly path: string;
  readonly use: string;
  readonly severity: ImportedRule['severity'];
  readonly intake: string;
  readonly settings: Settings;
  readonly version?: string;
}

/** What has become of them, by the numbers of rows: still by the same rule, by others alone, accepted, or open. */
export interface Alike {
  readonly judged: number;
  /** Rows besides that could not be read. */
  readonly unread: number;
  /** Why they may be other rows. */
  readonly doubt?: string;
  readonly same: readonly number[];
  readonly other: readonly number[];
  readonly accepted: readonly number[];
  readonly open: readonly number[];
}
