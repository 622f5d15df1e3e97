import type { Day } from './days.ts';
import type { Moment } from './moments.ts';

/** A value that has no members. */
export type Scalar = string | number | boolean | null;

/** Where a finding points. */
export interface Place {
  /** The declared path: `departs`, `crew.*.born`. */
  readonly field: string;
  /** The value's JSON Pointer (RFC 6901): `/departs`, `/crew/2/born`. */
  readonly pointer: string;
  /** The part of a request: body, query, … Present where a request has several. */
  readonly part?: string;
  /** The field's label. */
  readonly label?: string;
}

/** One use of a rule that did not hold. */
export interface Finding {
  readonly rule: string;
  /** The use's own name (`as`), else `rule@field`. */
  readonly use: string;
  readonly severity: Severity;
  readonly places: readonly Place[];
  /** The parameters, the rule's own facts, and the values that its messages name; nothing else, and no secret. */
  readonly facts: { readonly [fact: string]: Scalar | readonly Scalar[] };
  readonly message: string;
}

/** One use of a rule that could not be decided. */
export interface Unsettled {
  readonly rule: string;
  readonly use: string;
  readonly places: readonly Place[];
  readonly severity: Severity;
  readonly why: Why;
  /** For the log. Not enumerable: drivers quote parameters in their errors. */
  readonly cause?: unknown;
}
/** Why something is unsettled; `row-undecided`: an earlier row of a `judgeMany` has the same, and is not decided itself. */
export type Why =
  | 'unavailable'
  | 'timed-out'
  | 'aborted'
  | 'fault'
  | 'not-asked'
  | 'stored-unsound'
  | 'too-many-rows'
  | 'contended'
  | 'row-undecided';

/** With `explain: true`: what became of every use of a rule, in the order of evaluation. */
export type Trace = readonly TraceLine[];
/** What became of one use of a rule. */
export interface TraceLine {
  readonly rule: string;
  readonly use: string;
  readonly step: 'value' | 'between' | 'record' | 'outside';
  readonly outcome: 'held' | 'failed' | 'skipped' | 'unsettled';
  readonly why?: string;
  /** The pointers that made it so: of the fields that were absent or failed before. */
  readonly because?: readonly string[];
  /** Of a rule that is evaluated on each entry of a list: the pointer of this one. */
  readonly entry?: string;
  /** What its conditions came to, where they were looked at. */
  readonly conditions?: readonly TracedCondition[];
  /** What its roles read, and what its look-ups found. Not enumerable: some of it may be secret. */
  readonly seen?: { readonly read: { readonly [role: string]: unknown }; readonly found: { readonly [lookUp: string]: unknown } };
}

/** What became of a condition, and of its parts. */
export interface TracedCondition {
  /** One that reads something is a `condition`; the others are made of conditions, or look at the clock or the occasion. */
  readonly sort: 'condition' | 'not' | 'all' | 'any' | 'occasion' | 'calendar';
  /** Of one that reads something: its id. */
  readonly id?: string;
  readonly outcome: 'held' | 'failed' | 'skipped' | 'unsettled';
  /** Why it is unsettled. */
  readonly why?: Why;
  /** The pointers of what was absent, unsound or not found. */
  readonly because?: readonly string[];
  readonly parts?: readonly TracedCondition[];
}

/** What became of one use with `trial: true`. It has changed nothing, and is for the developer alone. */
export interface Trial {
  readonly rule: string;
  readonly use: string;
  readonly outcome: 'held' | 'failed' | 'unsettled';
  /** What would have been found. */
  readonly finding?: Finding;
  readonly unsettled?: Unsettled;
}

interface Common {
  readonly unsettled: readonly Unsettled[];
  readonly trace?: Trace;
  /** Present where some use is on trial and was judged. */
  readonly trials?: readonly Trial[];
}
/** What judging gives; never an exception for what the data holds. */
export type Verdict<A> = Common &
  (
    | { readonly outcome: 'accepted'; readonly value: A; readonly warnings: readonly Finding[] }
    | { readonly outcome: 'rejected'; readonly findings: readonly Finding[]; readonly more: boolean }
    | { readonly outcome: 'undecided'; readonly warnings: readonly Finding[] }
  );

/** What a predicate may know besides the data. */
export interface Circumstances {
  /** The day of `now` in the intake's time zone. */
  readonly today: Day;
  readonly now: Date;
  readonly occasion: string;
  readonly signal: AbortSignal;
  /** The day of a moment in the intake's time zone. */
  dayOf(moment: string): Day;
  /** The moment at which a day begins in the intake's time zone. */
  startOf(day: Day): Moment;
}

/** Whether a finding rejects, or is told only. */
export type Severity = 'error' | 'warning';
