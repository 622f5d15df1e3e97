import type { Finding, TraceLine } from '../core/basics/verdict.ts';
import type { LaidOut } from '../describe/drawing.ts';
import type { Counts } from '../screening/summary.ts';

export type { Counts };

// What the page of the workbench and its server tell each other.

/** What the server knows of the module that it serves. */
export interface ModuleState {
  readonly path: string;
  /** Counted up at every load, so that the page sees that there is a new one. */
  readonly loads: number;
  /** The newest load goes on; what is said of intakes is not yet of it. */
  readonly isLoading: boolean;
  /** Why the module does not load; the page keeps what it has of the load before. */
  readonly problem?: string;
  readonly intakes: readonly string[];
  /** The file in which cases are kept. */
  readonly casesFile: string;
  /** Another text each time that the file is another. */
  readonly casesSeen: string;
  readonly defaults: Settings;
  /** Whether the module exports `records` of its own. */
  readonly hasRecords: boolean;
}

/** How a submission is judged. */
export interface Settings {
  readonly locale: string;
  /** How values are read. */
  readonly as: 'json' | 'form';
  readonly report: 'everything' | 'firstOfEach' | 'firstOfAll';
  /** None: the intake's first. */
  readonly occasion?: string;
  /** RFC 3339; none: the clock. */
  readonly now?: string;
  /** The given fields, as a JSON text. */
  readonly given?: string;
  /** Nothing for none, `module` for what the module exports, else a JSON file, a module or the address of a database. */
  readonly records: string;
}

/** A submission, or a change to a stored record, and how it is judged. */
export interface Asked {
  readonly intake: string;
  /** As JSON, as it was typed. */
  readonly submission: string;
  /** The stored record that it changes, as JSON; none for a new submission. */
  readonly stored?: string;
  /** The key of that record, as JSON. */
  readonly itself?: string;
  readonly settings: Settings;
}

/** A field as a form shows it. */
export interface ShownField {
  readonly key: string;
  readonly path: string;
  readonly label: string;
  readonly sort: 'text' | 'number' | 'flag' | 'choice' | 'day' | 'group' | 'list' | 'table' | 'shapes' | 'json';
  readonly kind: string;
  readonly isNeeded: boolean;
  readonly isSecret: boolean;
  /** What it must satisfy, in words. */
  readonly rules: readonly string[];
  readonly options: readonly { readonly value: string | number; readonly label: string }[];
  readonly inner?: readonly ShownField[];
  readonly item?: ShownField;
  readonly tag?: string;
  readonly shapes?: readonly { readonly name: string; readonly fields: readonly ShownField[] }[];
}

/** A use of a rule as the page lists it. */
export interface ShownRule {
  readonly use: string;
  readonly rule: string;
  readonly step: TraceLine['step'];
  readonly sentence: string;
  /** When it counts, and how. */
  readonly terms: readonly string[];
  readonly reads: readonly string[];
  readonly asks: readonly string[];
  readonly when: readonly string[];
  /** It is the application's own, so that a case may become a sample of it. */
  readonly isOwn: boolean;
}

export interface ShownIntake {
  readonly name: string;
  readonly fields: readonly ShownField[];
  readonly given: readonly ShownField[];
  readonly rules: readonly ShownRule[];
  /** Of the rules that look at several values or at records, and of all of them. */
  readonly graphs: { readonly several: LaidOut; readonly all: LaidOut };
  readonly occasions: readonly string[];
  readonly locales: readonly string[];
  readonly zone: string | undefined;
  /** Where accepted values go, and the columns of its key. */
  readonly storedIn?: { readonly collection: string; readonly key: readonly string[] };
  readonly collections: readonly string[];
  readonly hasSecrets: boolean;
  /** A submission that is accepted where the store has what it names. */
  readonly example: object;
  readonly exampleGiven: object;
}

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

/** What can be asked: a result, or a sentence about what stands in the way. */
export type Told<T> = T | { readonly problem: string };

export interface HttpAnswer {
  readonly locale: string;
  readonly status: number;
  readonly headers: readonly (readonly [name: string, value: string])[];
  readonly body: string;
  /** The same request for a shell, and as an entry of an HTTP archive; where no other address is named, the workbench itself answers it. */
  readonly curl: string;
  readonly har: string;
}

/** A submission out of a request that was pasted. */
export interface Pasted {
  readonly method: string;
  /** Without its query. */
  readonly url: string;
  /** As JSON. */
  readonly submission: string;
  readonly as: Settings['as'];
  /** The names of fields with files, which were left out. */
  readonly files: readonly string[];
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
  readonly read: string | null;
  /** Members that it gets, all of them where it is new; nothing to forget it. */
  readonly put: Partial<KeptCase> | null;
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

/** Where a row of a file stands, counted from 1. */
export interface RowPlace {
  readonly line?: number | undefined;
  readonly entry?: number | undefined;
}

/** Rows that a rule has found fault with, to be judged again. */
export interface AlikeAsked {
  readonly path: string;
  readonly use: string;
  readonly intake: string;
  readonly settings: Settings;
  readonly version?: string;
}

/** What has become of them, by the numbers of rows: still by the same rule, by others alone, accepted, or open. */
export interface Alike {
  readonly judged: number;
  readonly same: readonly number[];
  readonly other: readonly number[];
  readonly accepted: readonly number[];
  readonly open: readonly number[];
}

/** A request to the door that stands before the intake that was judged last. */
export interface DoorAsked {
  readonly intake: string;
  readonly method: string;
  readonly headers: { readonly [name: string]: string };
  readonly body: string;
}
export interface DoorTold {
  readonly status: number;
  readonly headers: readonly (readonly [name: string, value: string])[];
  readonly body: string;
}

/**
 * The calls that the process with the module answers; `doors` is where the doors before intakes are, `address` where
 * requests that are copied are to go instead.
 */
export interface Calls {
  /** `now` is the moment that examples are made for. */
  describe(asked: { readonly intake: string; readonly locale: string; readonly now?: string }): ShownIntake;
  judge(asked: Asked): Judgement;
  answers(asked: Asked & { readonly doors: string; readonly address?: string }): readonly HttpAnswer[];
  door(asked: DoorAsked): DoorTold;
  turn(asked: Asked & { readonly pointer: string }): Turning;
  pattern(asked: PatternAsked): PatternTold;
  cases(kept: { readonly cases: readonly KeptCase[] }): readonly CaseState[];
  rows(asked: {
    readonly intake: string;
    readonly path: string;
    readonly wanted: readonly RowPlace[];
  }): readonly Told<{ readonly submission: unknown; readonly as: Settings['as'] }>[];
  alike(asked: { readonly intake: string; readonly submissions: readonly unknown[]; readonly settings: Settings }): readonly Came[];
  sample(asked: Asked & { readonly use: string; readonly entry?: string }): KeptSample;
}
