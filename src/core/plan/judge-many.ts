import { fault } from '../fault.ts';
import type { Reads } from '../rules/definition.ts';
import type { Trial, Verdict } from '../verdict.ts';
import { Claims } from './claims.ts';
import { engineInfo } from './engine-finding.ts';
import type { Ready } from './evaluate.ts';
import { verdictOf } from './finish.ts';
import { begin, checkItself, checkScope, type Inputs, recordRulesOf, settingsOf, settleAll } from './judge.ts';
import type { ClaimStore } from './ledger.ts';
import { askOutside } from './outside.ts';
import type { Plan, UsePlan } from './plan.ts';
import { Questions } from './questions.ts';
import { ROOT } from './raw.ts';
import { Run, type Settings } from './run.ts';
import type { RecordRules } from './stored.ts';

// Judges many submissions with few questions: the look-ups of a chunk are merged, and asked side by side.

/** Rows judged together when the caller says nothing: as many keys as the adapters put into one query. */
const CHUNK = 1250;
/** Chunks under way at a time: while the store answers for one, the next is read and screened. Rows by themselves wait their turn. */
const underWayOf = (chunk: number) => (chunk === 1 ? 1 : 2);
/** Rows whose outside checks run side by side. */
const OUTSIDE_AT_ONCE = 16;

/** One row of many: its running number (from 1), what was submitted, and the verdict. */
export interface Judged<A> {
  readonly row: number;
  readonly submission: unknown;
  readonly verdict: Verdict<A>;
  /**
   * Of an accepted row: the uses whose rules count, or look for, stored rows where this one is to be stored. They know what is stored
   * when they ask, and not the rows before that are stored later; with `chunk: 1` they ask for each row when it is its turn.
   */
  readonly countsStored?: readonly string[];
}

export type Submissions = Iterable<unknown> | AsyncIterable<unknown>;

export type ManyInputs = Omit<Inputs, 'itself'> & {
  readonly chunk?: number;
  readonly rowsBefore?: number;
  readonly claims?: ClaimStore;
  readonly itself?: (submission: unknown) => Reads | undefined;
};

/** What has come of the rows so far. */
export interface Counts {
  readonly rows: number;
  readonly accepted: number;
  readonly rejected: number;
  readonly undecided: number;
  /** Of uses on trial, by use: how often each held, failed, or could not be decided. */
  readonly trials: { readonly [use: string]: { readonly held: number; readonly failed: number; readonly unsettled: number } };
}

/** The verdicts in the order of the rows, and what has come of those given so far. */
export interface JudgedRows<A> extends AsyncIterableIterator<Judged<A>, void, undefined> {
  readonly counts: Counts;
}

type Tally = { -readonly [P in Trial['outcome']]: number };

class Counting implements Counts {
  rows = 0;
  accepted = 0;
  rejected = 0;
  undecided = 0;
  readonly trials: { [use: string]: Tally } = Object.create(null);

  add({ outcome, trials = [] }: Verdict<unknown>): void {
    this.rows += 1;
    this[outcome] += 1;
    for (const trial of trials) {
      const tally = this.trials[trial.use] ?? { held: 0, failed: 0, unsettled: 0 };
      this.trials[trial.use] = tally;
      tally[trial.outcome] += 1;
    }
  }
}

/** One row between its steps. */
interface Row {
  readonly number: number;
  readonly submission: unknown;
  readonly run: Run;
  ready: readonly Ready[];
  /** What the application says of this row failed: nothing is asked for it. */
  isBroken: boolean;
}

export function judgeMany(plan: Plan, submissions: Submissions, options: ManyInputs = {}): JudgedRows<unknown> {
  return new Rows(judgeChunks(plan, submissions, options));
}

/** Hands the rows of chunks out one by one: a generator would wait for each of them more than once. */
class Rows implements JudgedRows<unknown> {
  readonly counts = new Counting();
  readonly #chunks: AsyncGenerator<readonly Judged<unknown>[], void, undefined>;
  #chunk: readonly Judged<unknown>[] = [];
  #at = 0;
  /** Calls of `next` are answered in their order. */
  #turn: Promise<unknown> | undefined;

  constructor(chunks: AsyncGenerator<readonly Judged<unknown>[], void, undefined>) {
    this.#chunks = chunks;
  }

  next(): Promise<IteratorResult<Judged<unknown>, void>> {
    if (this.#turn === undefined) {
      const judged = this.#take();
      if (judged) return Promise.resolve({ value: judged, done: false });
    }
    const turn = this.#turn ?? Promise.resolve();
    const next = turn.then(() => this.#fetch());
    const after = next.then(forget, forget);
    this.#turn = after;
    after.then(() => {
      if (this.#turn === after) this.#turn = undefined;
    });
    return next;
  }

  #take(): Judged<unknown> | undefined {
    const judged = this.#chunk[this.#at];
    if (!judged) return undefined;
    this.#at += 1;
    this.counts.add(judged.verdict);
    return judged;
  }

  async #fetch(): Promise<IteratorResult<Judged<unknown>, void>> {
    for (;;) {
      const judged = this.#take();
      if (judged) return { value: judged, done: false };
      const { value, done } = await this.#chunks.next();
      if (done) return { value: undefined, done: true };
      this.#chunk = value;
      this.#at = 0;
    }
  }

  async return(): Promise<IteratorResult<Judged<unknown>, void>> {
    this.#chunk = [];
    await this.#chunks.return();
    return { value: undefined, done: true };
  }

  async throw(error: unknown): Promise<IteratorResult<Judged<unknown>, void>> {
    this.#chunk = [];
    await this.#chunks.throw(error);
    return { value: undefined, done: true };
  }

  [Symbol.asyncIterator](): this {
    return this;
  }
}

function forget(): void {}

async function* judgeChunks(
  plan: Plan,
  submissions: Submissions,
  options: ManyInputs,
): AsyncGenerator<readonly Judged<unknown>[], void, undefined> {
  const { chunk = CHUNK, rowsBefore = 0, signal } = options;
  if (!(Number.isInteger(chunk) && chunk > 0)) fault(`Intake "${plan.name}": chunk ${chunk} is not a number of rows.`);
  if (!(Number.isInteger(rowsBefore) && rowsBefore >= 0)) fault(`Intake "${plan.name}": rowsBefore ${rowsBefore} is not a number of rows.`);
  const many = new Many(plan, { ...options, now: options.now ?? new Date() });
  let collected: unknown[] = [];
  const underWay: Promise<Judged<unknown>[]>[] = [];
  let broken: { readonly cause: unknown } | undefined;
  const begin = () => {
    const judging = many.judge(collected);
    judging.catch(() => undefined);
    underWay.push(judging);
    collected = [];
  };
  try {
    for await (const submission of submissions) {
      signal?.throwIfAborted();
      collected.push(submission);
      if (collected.length < chunk) continue;
      begin();
      if (underWay.length === underWayOf(chunk)) yield (await underWay.shift()) as Judged<unknown>[];
    }
  } catch (cause) {
    broken = { cause };
  }
  if (collected.length > 0) begin();
  for (const judging of underWay) yield await judging;
  // What was read before the source broke off has its verdict first.
  if (broken) throw broken.cause;
}

/** What the chunks of one call have in common. */
class Many {
  readonly #plan: Plan;
  readonly #options: Inputs;
  readonly #itself: ManyInputs['itself'];
  readonly #settings: Settings;
  readonly #countsStored: readonly string[];
  readonly #claims: Claims;
  #count: number;
  /** Done when the chunk before has settled. */
  #before: Promise<unknown> = Promise.resolve();

  constructor(plan: Plan, { itself, rowsBefore = 0, claims, ...options }: ManyInputs & { readonly now: Date }) {
    this.#claims = new Claims(claims);
    checkScope(plan, options.records);
    this.#plan = plan;
    this.#count = rowsBefore;
    this.#options = options;
    this.#itself = itself;
    this.#settings = settingsOf(plan, options);
    this.#countsStored = plan.record.filter((use) => countsIn(plan.storedIn, use)).map(({ use }) => use);
  }

  /** Judges a chunk. Everything before the first question is done at once. */
  judge(submissions: readonly unknown[]): Promise<Judged<unknown>[]> {
    const turn = this.#before;
    const judging = this.#finish(this.#begin(submissions), turn);
    this.#before = judging.catch(() => undefined);
    return judging;
  }

  /** Steps 1 to 5 of every row. */
  #begin(submissions: readonly unknown[]): Row[] {
    const inputs = this.#options;
    const { given } = inputs;
    return submissions.map((submission) => {
      const number = ++this.#count;
      if (typeof given !== 'function')
        return { number, submission, run: begin(this.#plan, submission, inputs, this.#settings), ready: [], isBroken: false };
      try {
        const own = { ...inputs, given: given(submission, number) };
        return { number, submission, run: begin(this.#plan, submission, own, this.#settings), ready: [], isBroken: false };
      } catch (cause) {
        const row: Row = { number, submission, run: new Run(this.#plan, this.#settings), ready: [], isBroken: true };
        breakOff(row, cause);
        return row;
      }
    });
  }

  /** Steps 6 to 8. */
  async #finish(rows: Row[], turn: Promise<unknown>): Promise<Judged<unknown>[]> {
    const plan = this.#plan;
    if (plan.record.length > 0) await this.#judgeByRecords(rows, turn);
    if (plan.outside.length > 0 || rows.some(({ ready }) => ready.length > 0)) {
      for (let start = 0; start < rows.length; start += OUTSIDE_AT_ONCE)
        await Promise.all(
          rows.slice(start, start + OUTSIDE_AT_ONCE).map(({ run, ready, isBroken }) => (isBroken ? undefined : askOutside(run, ready))),
        );
    }
    return rows.map(({ number, submission, run }) => {
      const verdict = verdictOf(run, this.#options.locale);
      const isCounted = verdict.outcome === 'accepted' && this.#countsStored.length > 0;
      return { row: number, submission, verdict, ...(isCounted && { countsStored: this.#countsStored }) };
    });
  }

  async #judgeByRecords(rows: Row[], turn: Promise<unknown>): Promise<void> {
    const inputs = this.#options;
    const questions = new Questions(inputs.records?.scope);
    const claims = this.#claims;
    const waiting: { readonly row: Row; readonly rules: RecordRules }[] = [];
    for (const row of rows) {
      claims.nextRow();
      if (row.isBroken) continue;
      let own = inputs;
      try {
        const renewed = this.#itself?.(row.submission);
        if (renewed !== undefined && renewed !== null) {
          checkItself(this.#plan, renewed);
          own = { ...inputs, itself: renewed };
        }
      } catch (cause) {
        breakOff(row, cause);
        continue;
      }
      const rules = recordRulesOf(row.run, own, { questions, claims, row: row.number });
      if (rules) waiting.push({ row, rules });
    }
    if (!inputs.records || waiting.length === 0) return;
    const all = waiting.map(({ rules }) => rules);
    const ready = await settleAll(all, inputs.records, inputs, { questions, claims }, turn);
    for (const [index, { row }] of waiting.entries()) row.ready = ready[index] as readonly Ready[];
  }
}

/** Whether a rule decides by how many rows there are, where the rows judged go. What a row claims, later rows are told of anyway. */
function countsIn(storedIn: Plan['storedIn'], { lookUps, definition }: UsePlan): boolean {
  return !definition.claims && lookUps.some(({ spec: { collection, want } }) => collection === storedIn && want !== 'one');
}

/** What the application says of one row failed: that row is undecided, and the rest goes on. */
function breakOff(row: Row, cause: unknown): void {
  row.isBroken = true;
  row.run.leaveOpen(engineInfo(row.run, 'readable', ''), [{ place: ROOT, indexes: [] }], 'fault', cause);
}
