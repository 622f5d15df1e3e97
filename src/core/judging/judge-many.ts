import { Claims } from '../asking/claims.ts';
import { Asker } from '../asking/found.ts';
import type { ClaimStore, ClaimsApart } from '../asking/ledger.ts';
import { askOutside } from '../asking/outside.ts';
import { Questions } from '../asking/questions.ts';
import { RecordRules } from '../asking/record-rules.ts';
import { raced } from '../asking/time-limit.ts';
import { fault } from '../basics/fault.ts';
import type { Reads } from '../declared/rule.ts';
import type { Ready } from '../loop/cases.ts';
import { readSubmission } from '../loop/read.ts';
import type { Plan, UsePlan } from '../plan/plan.ts';
import { engineInfo } from '../run/engine-finding.ts';
import { verdictOf } from '../run/finish.ts';
import { ROOT } from '../run/raw.ts';
import { Run } from '../run/run.ts';
import type { Settings } from '../run/settings.ts';
import { recordRulesOf, settleAll } from './decide.ts';
import { begin, checkItself, checkScope, settingsOf } from './judge.ts';
import type { Judged } from './judged-rows.ts';
import { type Inputs, MANY } from './options.ts';

// Judges many submissions with few questions: the look-ups of a chunk are merged, and asked side by side.

/** Rows judged together when the caller says nothing: as many keys as the adapters put into one query. */
const CHUNK = 1250;
/** The same where nobody is asked: few rows are held at a time, and their garbage is soon collected. */
const ALONE = 16;
/** Chunks under way at a time: while the store answers for one, the next is read and screened. Rows by themselves wait their turn. */
const underWayOf = (chunk: number) => (chunk === 1 ? 1 : 2);
/** Rows whose outside checks run side by side. */
const OUTSIDE_AT_ONCE = 16;

/** Many submissions: anything that can be gone through, at once or as they come. */
export type Submissions = Iterable<unknown> | AsyncIterable<unknown>;

export type ManyInputs = Omit<Inputs, 'itself'> & {
  readonly chunk?: number;
  readonly rowsBefore?: number;
  readonly claims?: ClaimStore;
  /** Gives the number of each row as its turn comes, where rows are left out in between. Defaults to counting. */
  readonly numberOf?: () => number;
  /** Other rows of the same source are judged elsewhere: who knows what they claim. */
  readonly apart?: ClaimsApart;
  readonly itself?: (submission: unknown) => Reads | undefined;
};

/** One row between its steps. */
interface Row {
  readonly number: number;
  readonly submission: unknown;
  readonly run: Run;
  ready: readonly Ready[];
  /** What the application says of this row failed: nothing is asked for it. */
  isBroken: boolean;
}

/** Judges chunk after chunk; a chunk's verdicts are given together. */
export async function* judgeChunks(
  plan: Plan,
  submissions: Submissions,
  options: ManyInputs,
): AsyncGenerator<readonly Judged<unknown>[], void, undefined> {
  const { chunk = plan.record.length + plan.outside.length > 0 ? CHUNK : ALONE, rowsBefore = 0, signal } = options;
  if (!(Number.isInteger(chunk) && chunk > 0)) fault(`Intake "${plan.name}": chunk ${chunk} is not a number of rows.`);
  if (!(Number.isInteger(rowsBefore) && rowsBefore >= 0)) fault(`Intake "${plan.name}": rowsBefore ${rowsBefore} is not a number of rows.`);
  const many = new Many(plan, { ...options, now: options.now ?? new Date() });
  let collected: unknown[] = [];
  const underWay: Promise<Judged<unknown>[]>[] = [];
  const source = sourceOf(submissions, signal);
  let broken: { readonly cause: unknown } | undefined;
  const begin = () => {
    const judging = many.judge(collected);
    judging.catch(() => undefined);
    underWay.push(judging);
    collected = [];
  };
  try {
    for (;;) {
      const given = source.next();
      const next = given instanceof Promise ? await given : given;
      if (next.done) break;
      signal?.throwIfAborted();
      collected.push(next.value);
      if (collected.length < chunk) continue;
      begin();
      if (underWay.length === underWayOf(chunk)) yield (await underWay.shift()) as Judged<unknown>[];
    }
  } catch (cause) {
    broken = { cause };
  } finally {
    source.leave();
  }
  if (collected.length > 0) begin();
  for (const judging of underWay) yield await judging;
  // What was read before the source broke off has its verdict first.
  if (broken) throw broken.cause;
}

interface Source {
  next(): IteratorResult<unknown, unknown> | Promise<IteratorResult<unknown, unknown>>;
  /** Nobody asks for more. */
  leave(): void;
}

/** Rows as they come: whatever members a row has, it is not waited for; a source that is silent is left at once when that is asked for. */
function sourceOf(submissions: Submissions, signal: AbortSignal | undefined): Source {
  let isDone = false;
  const noted = (next: IteratorResult<unknown, unknown>) => {
    isDone = next.done === true;
    return next;
  };
  if (Symbol.asyncIterator in submissions) {
    const rows = submissions[Symbol.asyncIterator]();
    return {
      next: () => raced(rows.next(), signal).then(noted),
      leave: () => {
        if (!isDone) rows.return?.()?.catch(() => undefined);
      },
    };
  }
  const rows = submissions[Symbol.iterator]();
  return {
    next() {
      const next = noted(rows.next());
      const { value } = next;
      return value instanceof Promise ? raced(value, signal).then((row: unknown) => ({ value: row })) : next;
    },
    leave: () => {
      if (!isDone) rows.return?.();
    },
  };
}

/** What the chunks of one call have in common. */
class Many {
  readonly #plan: Plan;
  readonly #options: Inputs;
  readonly #itself: ManyInputs['itself'];
  readonly #settings: Settings;
  readonly #countsStored: readonly string[];
  readonly #claims: Claims;
  readonly #numberOf: () => number;
  #count: number;
  /** Done when the chunk before has settled. */
  #before: Promise<unknown> = Promise.resolve();

  constructor(
    plan: Plan,
    { itself, rowsBefore = 0, claims, numberOf = () => ++this.#count, apart, ...options }: ManyInputs & { readonly now: Date },
  ) {
    this.#claims = new Claims(plan, claims, apart);
    checkScope(plan, options.records);
    this.#numberOf = numberOf;
    this.#plan = plan;
    this.#count = rowsBefore;
    this.#options = options;
    this.#itself = itself;
    this.#settings = settingsOf(plan, options, MANY);
    this.#countsStored = plan.record.filter((use) => countsIn(plan.storedIn, use)).map(({ use }) => use);
  }

  /** Judges a chunk. Everything before the first question is done at once. */
  judge(submissions: readonly unknown[]): Promise<Judged<unknown>[]> {
    const { record, outside } = this.#plan;
    // Where nobody is asked, a row is done before the next begins, and nothing of it is kept.
    if (record.length === 0 && outside.length === 0) return Promise.resolve(submissions.map((submission) => this.#judgeAtOnce(submission)));
    const turn = this.#before;
    const judging = this.#finish(this.#begin(submissions), turn);
    this.#before = judging.catch(() => undefined);
    return judging;
  }

  #judgeAtOnce(submission: unknown): Judged<unknown> {
    const { number, run } = this.#beginRow(submission);
    return { row: number, submission, verdict: verdictOf(run, this.#options.locale) };
  }

  /** Steps 1 to 5 of every row. */
  #begin(submissions: readonly unknown[]): Row[] {
    return submissions.map((submission) => this.#beginRow(submission));
  }

  #beginRow(submission: unknown): Row {
    const inputs = this.#options;
    const { given } = inputs;
    const number = this.#numberOf();
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
      for (const { row, settle } of run.behind ?? []) settle(this.#claims.outcomeOf(row));
      const verdict = verdictOf(run, this.#options.locale);
      this.#claims.ended(number, verdict.outcome);
      const isCounted = verdict.outcome === 'accepted' && this.#countsStored.length > 0;
      return { row: number, submission, verdict, ...(isCounted && { countsStored: this.#countsStored }) };
    });
  }

  async #judgeByRecords(rows: Row[], turn: Promise<unknown>): Promise<void> {
    const inputs = this.#options;
    const asker = new Asker(new Questions(inputs.records?.scope, this.#plan.storedIn));
    const claims = this.#claims;
    const waiting: { readonly row: Row; readonly rules: RecordRules }[] = [];
    const beThere = (row: Row) => {
      const rules = this.#onlyThere(row, asker);
      if (inputs.records) waiting.push({ row, rules });
      else rules.settle();
    };
    for (const row of rows) {
      claims.nextRow();
      if (row.isBroken) {
        beThere(row);
        continue;
      }
      let own = inputs;
      try {
        const renewed = this.#itself?.(row.submission);
        if (renewed !== undefined && renewed !== null) {
          checkItself(this.#plan, renewed);
          own = { ...inputs, itself: renewed };
        }
      } catch (cause) {
        breakOff(row, cause);
        beThere(row);
        continue;
      }
      const rules = recordRulesOf(row.run, own, { asker, claims, row: row.number });
      if (rules) waiting.push({ row, rules });
    }
    if (!inputs.records || waiting.length === 0) return;
    const all = waiting.map(({ rules }) => rules);
    const ready = await settleAll(all, inputs.records, inputs, { asker, claims }, turn);
    for (const [index, { row }] of waiting.entries()) if (!row.isBroken) row.ready = ready[index] as readonly Ready[];
  }

  /** A row that is undecided as a whole has what it claims all the same, for those behind it. */
  #onlyThere({ submission, number }: Row, asker: Asker): RecordRules {
    const run = new Run(this.#plan, this.#settings);
    readSubmission(run, submission);
    return new RecordRules(run, this.#plan.record, undefined, { asker, claims: this.#claims, row: number }, true);
  }
}

/** Whether a rule decides by how many rows there are, where the rows judged go. What a row claims, later rows are told of anyway. */
function countsIn(storedIn: Plan['storedIn'], { lookUps, definition }: UsePlan): boolean {
  return !definition.claims && lookUps.some(({ spec: { collection, form } }) => collection === storedIn && !form.mustExist);
}

/** What the application says of one row failed: that row is undecided, and the rest goes on. */
function breakOff(row: Row, cause: unknown): void {
  row.isBroken = true;
  row.run.leaveOpen(engineInfo(row.run, 'readable', ''), [{ place: ROOT, indexes: [] }], 'fault', cause);
}
