import type { ClaimStore } from './asking/ledger.ts';
import { fault } from './basics/fault.ts';
import { kindOf, optionsOf } from './basics/known.ts';
import type { Texts } from './basics/text.ts';
import type { Verdict } from './basics/verdict.ts';
import type { Amended, AmendInputs } from './changes/amend.ts';
import { compile, type Description } from './compile/compile.ts';
import type { AcceptedOf, Fields, GivenOf } from './declared/field.ts';
import { collectionSpec } from './declared/look-up.ts';
import type { BoundRule, BoundSpec } from './declared/rule.ts';
import { writeCode } from './judging/busy.ts';
import { judge, judgeLocally } from './judging/judge.ts';
import type { ManyInputs, Submissions } from './judging/judge-many.ts';
import { type JudgedRows, Rows } from './judging/judged-rows.ts';
import { checkOptions, type Inputs, MANY, type Options } from './judging/options.ts';
import type { Catalogue } from './messages/catalogues/catalogue.ts';
import type { Plan, WhenWritten } from './plan/plan.ts';
import type { StoringOptions } from './races/once.ts';
import type { StoredAmendment, StoredVerdict } from './races/store.ts';
import type { Collection } from './rules/collection.ts';
import type { AnyPath } from './rules/roles.ts';
import type { Columns, RowOf } from './stored/look-up.ts';

export type WithGiven<F extends Fields> = keyof GivenOf<F> extends never ? {} : { readonly given: GivenOf<F> };
/** The stored record that the submission replaces: look-ups with `exceptItself` and `unique` leave it out. */
type WithItself<Key> = [Key] extends [never] ? {} : { readonly itself?: Key };
type Rest<F extends Fields, Key> = keyof GivenOf<F> extends never
  ? [options?: Options & WithItself<Key>]
  : [options: Options & WithGiven<F> & WithItself<Key>];

/** How many submissions are judged. */
type ManyOptions<F extends Fields, Key> = Options &
  (keyof GivenOf<F> extends never
    ? {}
    : {
        /** The same for all rows, or what a function gives for each. */
        readonly given: GivenOf<F> | ((submission: unknown, row: number) => GivenOf<F>);
      }) & {
    /** Rows judged together. Defaults to 1,250, the keys that adapters put into one query; to 16 where nobody is asked. */
    readonly chunk?: number;
    /** Rows of the same source that were judged before, so that the numbers go on from there. Defaults to 0. */
    readonly rowsBefore?: number;
    /** Keeps what earlier rows have claimed. Defaults to memory; `claimsIn` of `jestril/sql` keeps it in an SQLite file. */
    readonly claims?: ClaimStore;
  } & ([Key] extends [never] ? {} : { readonly itself?: (submission: unknown) => Key | undefined });
/** What `judgeMany` takes besides the submissions. */
export type RestOfMany<F extends Fields, Key> = keyof GivenOf<F> extends never
  ? [options?: ManyOptions<F, Key>]
  : [options: ManyOptions<F, Key>];

export type AmendOptions<F extends Fields, Key> = Options &
  WithGiven<F> & {
    /** The change is a whole form sent again, and not a JSON Merge Patch (RFC 7396): what it lacks is taken away. */
    readonly whole?: boolean;
    /**
     * The stored record is given as a whole: what it lacks is empty. Otherwise it was not loaded, a rule that reads it cannot be
     * decided, and what is stored and empty has to be said by `null`. Defaults to false.
     */
    readonly complete?: boolean;
  } & ([Key] extends [never] ? {} : { readonly itself: Key });
/** A stored record: as it was accepted; a field that holds nothing is `null`, one that was not loaded is left out. */
export type StoredOf<F extends Fields> = { readonly [N in keyof AcceptedOf<F>]?: AcceptedOf<F>[N] | null };
type RestOfAmend<F extends Fields, Key> = keyof GivenOf<F> extends never
  ? [Key] extends [never]
    ? [options?: AmendOptions<F, Key>]
    : [options: AmendOptions<F, Key>]
  : [options: AmendOptions<F, Key>];

/** The description of one kind of incoming data. */
export interface Intake<in out F extends Fields, in out Key = never> {
  readonly name: string;
  readonly fields: F;
  /** The rules as they were given, for `[...other.rules, …]`. */
  readonly rules: readonly BoundRule<F>[];
  /** The collections that its rules look into. */
  readonly collections: readonly Collection<Columns, string>[];
  /** Judges a submission. Rejects only for the caller's own faults, such as a given value that is unsound. */
  judge(submission: unknown, ...rest: Rest<F, Key>): Promise<Verdict<AcceptedOf<F>>>;
  /** Judges without waiting: record rules and outside checks are left open, so an intake that has some is never accepted. */
  judgeLocally(submission: unknown, ...rest: Rest<F, Key>): Verdict<AcceptedOf<F>>;
  /**
   * Judges many submissions with few questions to the records, and gives their verdicts in order. A row that fails never
   * stops the others; what the source throws is thrown after the verdicts of the rows before.
   * Each row claims its unique values, so that a later row with the same ones is rejected.
   * `itself` says which stored record a row renews, so that an import can be run again.
   */
  judgeMany(submissions: Submissions, ...rest: RestOfMany<F, Key>): JudgedRows<AcceptedOf<F>>;
  /**
   * Judges a change to a stored record: the record with the change in it is judged in full, and a rule is excused when all that
   * it reads is the same as before. Defaults do not fill what the change does not mention. The accepted verdict has the
   * whole value, and the paths that change. The occasion defaults to `amend`.
   */
  amend(stored: StoredOf<F>, change: unknown, ...rest: RestOfAmend<F, Key>): Promise<Amended<AcceptedOf<F>, AnyPath<F>>>;
  /** Judges, and stores what is accepted. When a constraint refuses it meanwhile, that is a rejected verdict too; other errors are thrown. */
  judgeAndStore<T>(
    submission: unknown,
    options: Options & StoringOptions & WithGiven<F> & WithItself<Key>,
    store: (value: AcceptedOf<F>) => Promise<T> | T,
  ): Promise<StoredVerdict<AcceptedOf<F>, T>>;
  /** The same for a change: `store` is given the whole value, and the paths that change. */
  amendAndStore<T>(
    stored: StoredOf<F>,
    change: unknown,
    options: AmendOptions<F, Key> & StoringOptions,
    store: (value: AcceptedOf<F>, changed: readonly AnyPath<F>[]) => Promise<T> | T,
  ): Promise<StoredAmendment<AcceptedOf<F>, AnyPath<F>, T>>;
}

/** The accepted value of an intake: `interface Booking extends Accepted<typeof booking> {}`. */
export type Accepted<I extends { readonly fields: Fields }> = AcceptedOf<I['fields']>;

/** What an intake says in one more language. */
interface IntakeLanguage<F extends Fields> {
  readonly labels?: { readonly [P in AnyPath<F>]?: string };
  /** By the path of the choice, then by option. */
  readonly options?: { readonly [P in AnyPath<F>]?: { readonly [option: string]: string } };
  /** As `messages` of the intake. */
  readonly messages?: { readonly [name: string]: string };
}

interface More<F extends Fields> {
  /** Rules between fields, against records and outside. `false` stands for a rule left out. */
  readonly rules?: readonly (BoundRule<F> | false)[];
  /** What becomes of undeclared keys. Defaults to `drop`; they are never passed on. */
  readonly strangers?: 'refuse' | 'drop';
  /** The IANA time zone of `today`. */
  readonly zone?: string;
  /** Other words for rules of this intake, by `as` name, `rule@field` or rule id. */
  readonly messages?: { readonly [name: string]: Texts };
  /** The languages that the engine and the ready-made rules speak besides English: `de` and `pl` of `jestril/catalogues`. */
  readonly catalogues?: readonly Catalogue[];
  /** Labels, options and messages of this intake in other languages, by locale. Its own labels count as English. */
  readonly languages?: { readonly [locale: string]: IntakeLanguage<F> };
  /** Which findings are reported, unless the call says otherwise. Defaults to `everything`. */
  readonly report?: 'everything' | 'firstOfEach' | 'firstOfAll';
  /** Findings listed at most. Defaults to 100. */
  readonly mostFindings?: number;
  /** The occasions on which it is judged, the default one first. Defaults to `create` and `amend`. */
  readonly occasions?: readonly string[];
  /**
   * When code is written for the intake, which judges several times as fast: `when-busy` (the default) after 200 judgements, `at-once`
   * when it is defined, or `never`. What writes it is loaded meanwhile. Where no code can be made (a content security policy), it is
   * never.
   */
  readonly code?: WhenWritten;
}

/**
 * Describes one kind of incoming data: its name, its fields, its rules.
 *
 * @throws Fault when the description contradicts itself
 */
export const intake = <F extends Fields, C extends Columns = {}, K extends keyof C = never>(
  name: string,
  fields: F,
  more: More<F> & {
    /** The collection that accepted values are kept in. */
    readonly storedIn?: Collection<C, K>;
  } = {},
): Intake<F, [K] extends [never] ? never : Pick<RowOf<C>, K>> => {
  if (typeof name !== 'string' || name === '') fault('An intake needs a name as its first argument.');
  const known = [
    'rules',
    'strangers',
    'zone',
    'messages',
    'catalogues',
    'languages',
    'report',
    'mostFindings',
    'occasions',
    'storedIn',
    'code',
  ];
  optionsOf(`Intake "${name}"`, more, known);
  if (more.strangers !== undefined && more.strangers !== 'refuse' && more.strangers !== 'drop')
    fault(`Intake "${name}": strangers is refuse or drop, and not ${kindOf(more.strangers)}.`);
  const reports: readonly unknown[] = [undefined, 'everything', 'firstOfEach', 'firstOfAll'];
  if (!reports.includes(more.report))
    fault(`Intake "${name}": report is everything, firstOfEach or firstOfAll, and not ${kindOf(more.report)}.`);
  if (typeof fields !== 'object' || fields === null || Array.isArray(fields))
    fault(`Intake "${name}" needs its fields as its second argument, such as { name: text('Name') }, and not ${kindOf(fields)}.`);
  if (more.rules !== undefined && !Array.isArray(more.rules))
    fault(`Intake "${name}": rules is a list, such as rules: [inOrder({ … })], and not ${typeof more.rules}.`);
  const written: readonly unknown[] = ['when-busy', 'at-once', 'never'];
  if (!written.includes(more.code ?? 'never')) fault(`Intake "${name}": code is ${written.join(', ')}, and not ${String(more.code)}.`);
  const rules = (more.rules ?? []) as unknown as readonly (BoundSpec | false)[];
  const plan = compile({
    name,
    fields,
    rules,
    strangers: more.strangers ?? 'drop',
    zone: more.zone,
    messages: more.messages ?? {},
    catalogues: more.catalogues ?? [],
    languages: (more.languages ?? {}) as Description['languages'],
    report: more.report ?? 'everything',
    mostFindings: more.mostFindings ?? 100,
    occasions: more.occasions ?? ['create', 'amend'],
    storedIn: more.storedIn && collectionSpec(more.storedIn),
    code: more.code ?? 'when-busy',
  });
  if (plan.busy.when === 'at-once') void writeCode(plan);
  return new CompiledIntake(
    plan,
    fields,
    rules.filter((rule) => rule !== false),
  ) as never;
};

/** Tells an intake from anything else, also when two copies of the package are loaded. */
const INTAKE = Symbol.for('jestril.intake');

class CompiledIntake {
  readonly name: string;
  readonly fields: Fields;
  readonly rules: readonly BoundSpec[];
  readonly plan: Plan;
  constructor(plan: Plan, fields: Fields, rules: readonly BoundSpec[]) {
    this.name = plan.name;
    this.fields = fields;
    this.rules = rules;
    this.plan = plan;
  }
  get [INTAKE](): true {
    return true;
  }
  get collections() {
    return this.plan.collections.map(({ made }) => made() as Collection<Columns, string>);
  }
  judge(submission: unknown, options?: Options): Promise<Verdict<unknown>> {
    return judge(this.plan, submission, options);
  }
  judgeLocally(submission: unknown, options?: Options): Verdict<unknown> {
    return judgeLocally(this.plan, submission, options);
  }
  // What only some applications do is loaded when they do it.
  amend(stored: unknown, change: unknown, options: AmendInputs = {}): Promise<Amended<unknown, string>> {
    return import('./changes/loaded.ts').then(({ amend }) => amend(this.plan, stored, change, options));
  }
  judgeAndStore<T>(submission: unknown, options: Inputs, store: (value: never) => Promise<T> | T): Promise<StoredVerdict<unknown, T>> {
    return import('./races/store.ts').then(({ judgeAndStore }) => judgeAndStore(this.plan, submission, options, store));
  }
  amendAndStore<T>(
    stored: unknown,
    change: unknown,
    options: AmendInputs,
    store: (value: never, changed: never) => Promise<T> | T,
  ): Promise<StoredAmendment<unknown, string, T>> {
    return import('./races/store.ts').then(({ amendAndStore }) => amendAndStore(this.plan, stored, change, options, store));
  }
  judgeMany(submissions: Submissions, options?: ManyInputs): JudgedRows<unknown> {
    const { name } = this;
    if (typeof submissions !== 'object' || submissions === null || !(Symbol.iterator in submissions || Symbol.asyncIterator in submissions))
      fault(`Intake "${name}": judgeMany needs rows that can be gone through, such as a list, and not ${kindOf(submissions)}.`);
    if (options !== undefined) checkOptions(name, options, MANY);
    return new Rows(chunksOf(this.plan, submissions, options));
  }
}

async function* chunksOf(plan: Plan, submissions: Submissions, options: ManyInputs = {}) {
  const { judgeChunks } = await import('./judging/judge-many.ts');
  yield* judgeChunks(plan, submissions, options);
}

/** The plan of an intake, for what looks inside it. */
export function planOf(intake: { readonly name: string }): Plan {
  return (intake as unknown as CompiledIntake).plan;
}

/** Whether a value is an intake, for tools that load modules. */
export function isIntake(value: unknown): value is Intake<Fields> {
  return typeof value === 'object' && value !== null && INTAKE in value;
}
