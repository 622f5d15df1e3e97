import type { Trial, Verdict } from '../basics/verdict.ts';

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

/** Hands the rows of chunks out one by one: a generator would wait for each of them more than once. */
export class Rows implements JudgedRows<unknown> {
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
