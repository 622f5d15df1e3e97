import type { Finding, Scalar, Verdict } from '../../core/basics/verdict.ts';
import type { AcceptedOf, Fields, GivenOf } from '../../core/declared/field.ts';
import type { Options } from '../../core/judging/options.ts';
import type { Records } from '../../core/stored/records.ts';
import type { ShownForm } from '../../forms/shown-form.ts';
import type { FileStore } from './files.ts';
import type { Limits } from './json.ts';
import type { LogAbout, LogEntry } from './log-entry.ts';
import type { Problem, ProblemKind } from './problem.ts';
import type { Telemetry } from './telemetry.ts';

/** Any intake, whatever its fields and its key. */
export interface AnyIntake {
  readonly name: string;
  readonly fields: Fields;
  readonly judge: unknown;
}

/** An intake as it is called, once its options are put together. */
export interface CalledIntake {
  judge(submission: unknown, options: object): Promise<Verdict<unknown>>;
  judgeLocally(submission: unknown, options: object): Verdict<unknown>;
  amend(stored: object, change: unknown, options: object): Promise<Verdict<unknown>>;
  judgeAndStore(submission: unknown, options: object, store: (value: unknown) => unknown): Promise<Verdict<unknown>>;
  amendAndStore(
    stored: object,
    change: unknown,
    options: object,
    store: (value: unknown, changed: readonly string[]) => unknown,
  ): Promise<Verdict<unknown>>;
}
/** An intake is invariant in its fields, so that no one type has the calls of all. */
export const called = (intake: AnyIntake): CalledIntake => intake as unknown as CalledIntake;

/** One intake for the body (for the query of GET and HEAD), or one for each part of the request. */
export interface PartIntakes {
  readonly body?: AnyIntake;
  readonly query?: AnyIntake;
  readonly params?: AnyIntake;
  readonly headers?: AnyIntake;
  readonly cookies?: AnyIntake;
  /** The files of a multipart body. Without it they are among the fields of the body. */
  readonly uploads?: AnyIntake;
}
export type Receivable = AnyIntake | PartIntakes;

type FieldsOf<I> = I extends { readonly fields: infer F extends Fields } ? F : never;
/** What the handler gets: the accepted value, or one for each part. */
export type ReceivedOf<P> = P extends AnyIntake
  ? AcceptedOf<FieldsOf<P>>
  : { readonly [N in keyof P as P[N] extends AnyIntake ? N : never]: AcceptedOf<FieldsOf<P[N]>> };
type GivenIn<P> = P extends AnyIntake
  ? GivenOf<FieldsOf<P>>
  : { readonly [N in keyof P as keyof GivenOf<FieldsOf<P[N]>> extends never ? never : N]: GivenOf<FieldsOf<P[N]>> };

/** What is known of a request before its parts are judged. */
export interface About<Q, C> {
  readonly request: Q;
  readonly caller: C;
  /** The parameters of the path, as the router has found them. */
  readonly params: { readonly [name: string]: string };
}

/** A form that is shown again: what was typed (never secrets) and what to mend. */
export interface ShownAgain<Q, C> extends About<Q, C> {
  readonly problem: Problem;
  readonly kind: ProblemKind;
  readonly form: ShownForm;
  readonly locale: string;
  /** The findings as the verdict has them; the trace is there with `explain`. */
  readonly verdict: Verdict<unknown> | undefined;
}

/** Headers by name, in any case; of `Set-Cookie` there may be several. */
export type SentHeaders = { readonly [name: string]: string | readonly string[] };

/** An answer that is written out. */
export interface Answer {
  readonly status: number;
  /** By lower-case name; a list is sent as several headers of one name. */
  readonly headers: SentHeaders;
  readonly body: string;
}

/** What a handler may return when it does not answer itself. */
export interface Done {
  /** Defaults to 201 with a location, 200 with a body, else 204. A browser that has posted a form is sent on with 303. */
  readonly status?: number;
  /**
   * Where what was made is found: an address on the same site, whatever stands in it. One on another site is cut down to its path,
   * unless `elsewhere` says that it is meant.
   */
  readonly location?: string;
  /** The location may be on another site. */
  readonly elsewhere?: boolean;
  /** Sent as JSON. */
  readonly body?: unknown;
  readonly headers?: SentHeaders;
}

/** What is changed, for `amends`. */
export interface Amends {
  readonly stored: object;
  readonly itself: { readonly [column: string]: Scalar };
  /** The record is given as a whole: what it lacks is empty. Otherwise it was not loaded, and empty is `null`. */
  readonly complete?: boolean;
}

// The property stands outside the conditional type, so that the caller's type is known where it is written.
interface MayBeGiven<P, Q, C> {
  /** The given fields of the intakes, for each request. Needed when they have some. */
  readonly given?: (about: About<Q, C>) => GivenIn<P> | Promise<GivenIn<P>>;
}
type MustBeGiven<P> = keyof GivenIn<P> extends never ? {} : { readonly given: unknown };

/** What `caller` gives for nobody. */
export type Nobody = undefined | null | false | '';

/** How requests are read, judged and answered. Everything has a default. */
export interface ReceiveOptions<Q, C> extends Pick<Options, 'zone' | 'within' | 'explain' | 'shown'> {
  /** The store of existing data, or one for each request: of its tenant, in its transaction. */
  readonly records?: Records | ((about: About<Q, C>) => Records);
  /** Defaults to `firstOfEach`, so that junk costs no queries. */
  readonly report?: Options['report'];
  /** The moment that counts as now. Defaults to the clock. */
  readonly now?: () => Date;
  readonly occasion?: string;
  readonly limits?: Limits;
  /**
   * Who sends it; `undefined`, `null`, `false` and `''` are nobody, and answered with 401. It is asked before anything is read or
   * judged. What it throws is the framework's.
   */
  readonly caller?: (request: Q) => C | Nobody | Promise<C | Nobody>;
  /** Methods that are answered, where there is an intake for the body. Defaults to POST, PUT and PATCH. */
  readonly methods?: readonly string[];
  /**
   * The sites whose pages may send forms here, besides this one: `['https://pellwick.example']`; `any` for all. A form of any other is
   * answered with 403 before it is read, by what browsers say (`Sec-Fetch-Site`, `Origin`). JSON needs no such look: browsers ask first.
   * This site is what the sender asks for: `Host`, and behind a proxy `X-Forwarded-Host` or `Forwarded` (RFC 7239).
   */
  readonly origins?: readonly string[] | 'any';
  /** Where files go that are not to be held in memory; `filesIn(folder)` of `jestril/files` is one. */
  readonly files?: FileStore;
  /** Whether the caller may do this at all; otherwise the answer is 403. */
  readonly allows?: (about: About<Q, C>) => boolean | Promise<boolean>;
  /** The `WWW-Authenticate` header of a 401 (RFC 9110, 11.6.1). Defaults to `Bearer`. */
  readonly challenge?: string;
  /** Judges a change to this record instead of a new one; `undefined` is answered with 404. A form is taken as a whole, JSON as a merge patch unless the method is PUT. */
  readonly amends?: (about: About<Q, C>) => Amends | undefined | Promise<Amends | undefined>;
  /** The languages that can be spoken, the preferred one first. Defaults to English and those of the intake. */
  readonly languages?: readonly [string, ...string[]];
  /** The language of a request, where it is not that of `Accept-Language`. */
  readonly locale?: (request: Q) => string | undefined;
  /** Statuses other than the usual ones: `{ rejected: 400, 'lost-race': 409 }`. */
  readonly statuses?: { readonly [kind in ProblemKind]?: number };
  /** The `type` of problems (a URI). Defaults to `about:blank`. */
  readonly types?: { readonly [kind in ProblemKind]?: string };
  /** `compact` (the default): rule, pointers, message. `full`: the name of the use and the facts too. */
  readonly findings?: 'compact' | 'full';
  /** Seconds of `Retry-After` when something was undecided. Defaults to 5. */
  readonly retryAfter?: number;
  /** The page with the form again, for a browser that has posted it without a script. */
  readonly page?: (shown: ShownAgain<Q, C>) => string | Promise<string>;
  /** An answer of one's own for what stands in the way; `undefined` for the usual one. */
  readonly answer?: (
    problem: Problem,
    about: {
      readonly kind: ProblemKind;
      readonly request: Q;
      readonly verdict: Verdict<unknown> | undefined;
      /** What was sent, without secrets. */
      readonly form: ShownForm;
    },
  ) => Partial<Answer> | undefined;
  /** The intake that bodies going out have to match. What it accepts is what is sent, without undeclared members. */
  readonly sends?: AnyIntake;
  /**
   * What becomes of a body that does not match `sends`: `refuse` it with 500 and say why (the default, for development),
   * `drop` it with 500 and say nothing (the default where NODE_ENV is `production`), or only `log` it. All of them are logged.
   */
  readonly unfit?: 'refuse' | 'drop' | 'log';
  /** Told of each judgement and each round of questions: `telemetry()` of `jestril/telemetry`. */
  readonly telemetry?: Telemetry;
  /** Told of each request once its answer is known. What it throws, or a promise of it that is rejected, changes nothing. */
  readonly log?: (entry: LogEntry, about: LogAbout<Q, C>) => unknown;
}

/** Records that can judge and store in one transaction, such as those of `jestril/sql`. */
export interface MayBeSerial<T> {
  // biome-ignore lint/suspicious/noExplicitAny: whatever records they are, only their transaction matters here
  serially?<R>(run: (records: any, transaction: T) => Promise<R>, options?: object): Promise<unknown>;
}

/** What stores a value is told besides. */
export interface Storing<Q, C, T> extends About<Q, C> {
  /** The records, inside the transaction. */
  readonly records: Records;
  /** What to store through; `undefined` where the records know no transactions. */
  readonly transaction: T;
  /** Of a change: the paths that change. */
  readonly changed: readonly string[];
}

interface StoringOptions<P, Q, C, T, S> {
  readonly records?: (Records & MayBeSerial<T>) | ((about: About<Q, C>) => Records & MayBeSerial<T>);
  /**
   * Stores what is accepted, and nothing else: it may be called again where the database refuses a transaction for what others have stored.
   * Judging and storing are one transaction (`serially`), so that rules about records hold afterwards; the handler comes after it, and finds
   * in `received.stored` what this gives. What a constraint refuses is answered as a lost race, and so is what it throws by `refused`.
   */
  readonly store?: (value: ReceivedOf<P>, storing: Storing<Q, C, T>) => S | Promise<S>;
  /**
   * Of `store`: a key that the sender repeats with the same request, such as `Idempotency-Key`. What was stored with it once is not stored
   * again: the handler is given what it was given then. `undefined`: the request says none.
   */
  readonly once?: (about: About<Q, C>) => string | undefined;
}

/** The options of `receive` for some intakes. */
export type OptionsFor<P, Q, C, T = undefined, S = undefined> = ReceiveOptions<Q, C> &
  StoringOptions<P, Q, C, T, S> &
  MayBeGiven<P, Q, C> &
  MustBeGiven<P>;

/** What a handler is told besides the value. */
export interface Received<Q, C, S = undefined> extends About<Q, C> {
  /** What `store` has given. */
  readonly stored: S;
  readonly locale: string;
  readonly warnings: readonly Finding[];
  /** Of a change: the paths that change. */
  readonly changed: readonly string[];
  readonly verdict: Verdict<unknown>;
  /** What was sent, without secrets. */
  readonly form: ShownForm;
  readonly signal: AbortSignal;
}
