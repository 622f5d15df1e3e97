import type { ClaimStore } from '../../core/asking/ledger.ts';
import type { Verdict } from '../../core/basics/verdict.ts';
import { planOf } from '../../core/intake.ts';
import { writeCode } from '../../core/judging/busy.ts';
import { begin, settingsOf } from '../../core/judging/judge.ts';
import { judgeChunks } from '../../core/judging/judge-many.ts';
import type { Options } from '../../core/judging/options.ts';
import { verdictOf } from '../../core/run/finish.ts';
import { Summary, type Summed } from '../../screening/summary.ts';
import type { LoadedIntake } from '../basics/loading.ts';
import { type Look, lookOf } from '../basics/terminal.ts';
import type { Datum } from '../reading/data.ts';
import type { Piece } from '../reading/piece.ts';
import { rowsIn } from '../reading/rows-in.ts';
import { Explainer, Overheard } from '../telling/explain.ts';
import { asJson, asText, type Printer } from '../telling/print.ts';
import { verdictLine } from './as-rows.ts';
import { type Claimed, RememberedClaims, SettledClaims } from './claimed.ts';
import { CorrectedClaims, type Entered, enteredOf } from './entered.ts';
import { rejectedText } from './rejected.ts';
import type { Task } from './task.ts';

/** What is to be told of each row. */
export interface Telling {
  /** How verdicts are written; nothing of them when only the summary is. */
  readonly format?: 'text' | 'json' | 'lines';
  readonly look: Look;
  readonly rejected: boolean;
  /** Each row is a change to a stored record. */
  readonly amends: boolean;
  readonly explain: boolean;
}

/** What came of a piece. */
export interface Judged {
  readonly rows: number;
  readonly summed: Summed;
  /** What is written of its rows, in order. */
  readonly told: string;
  readonly rejected: readonly string[];
  /** Of lines those that are not only accepted. */
  readonly notable: readonly string[];
  readonly claims: readonly Claimed[];
  /** Of a range that was judged in one go: what it claims, as it is entered, in place of its claims. */
  readonly entered?: Entered;
}

/** Rows for which code is written at once. */
const MANY = 300;

/** Judges pieces, each by itself. */
export class PieceJudge {
  readonly #intake: LoadedIntake;
  readonly #options: Options & { readonly given?: object };
  readonly #telling: Telling;
  readonly #overheard: Overheard | undefined;
  readonly #explainer: Explainer | undefined;

  constructor(intake: LoadedIntake, options: Options & { readonly given?: object }, telling: Telling) {
    this.#intake = intake;
    this.#telling = telling;
    this.#overheard = telling.explain ? new Overheard() : undefined;
    this.#explainer = telling.explain ? new Explainer(intake, options.given) : undefined;
    const { records } = options;
    this.#options = {
      ...options,
      ...(records && this.#overheard && { records: this.#overheard.listeningTo(records) }),
      ...(telling.explain && { explain: true }),
    };
  }

  /** @param all what all rows before have claimed, where they are known; otherwise the rows of the piece know of each other only */
  async judge(task: Task, all?: ClaimStore): Promise<Judged> {
    const { claims, ...judged } = await this.#judge(task, all);
    // Ranges enter what they claim into a database, and need not hand it over as it is.
    return this.#telling.format === 'lines' && !task.isPart ? { ...judged, claims: [], entered: enteredOf(claims) } : { ...judged, claims };
  }

  async #judge({ piece, rowsBefore, as, settled, corrections, begun = new Int32Array(1) }: Task, all?: ClaimStore): Promise<Judged> {
    await this.#prepare(piece.rows);
    const claims = all ?? (settled ? new SettledClaims(settled) : corrections ? new CorrectedClaims(corrections) : new RememberedClaims());
    const telling = new Told(this.#telling, piece, rowsBefore);
    const verdicts = this.#verdicts(piece, rowsBefore, as, claims, begun);
    // Waiting for each row would cost more than reading it.
    if (Symbol.iterator in verdicts) for (const { datum, verdict } of verdicts) this.#tell(telling, datum, verdict);
    else for await (const { datum, verdict } of verdicts) this.#tell(telling, datum, verdict);
    return { ...telling.end(), claims: claims instanceof RememberedClaims ? claims.asked : [] };
  }

  /** Code for the intake pays back where there are many rows. */
  async #prepare(rows: number): Promise<void> {
    const plan = planOf(this.#intake);
    if (rows > MANY && plan.busy.when !== 'never' && plan.busy.code === undefined) await writeCode(plan);
  }

  #tell(telling: Told, datum: Datum, verdict: Verdict<unknown> | undefined): void {
    const submission = 'submission' in datum ? datum.submission : undefined;
    const explained = verdict && this.#explainer?.explain(submission, verdict, this.#overheard?.take() ?? []);
    telling.add(datum, verdict, explained);
  }

  #verdicts(
    piece: Piece,
    rowsBefore: number,
    as: 'json' | 'form',
    claims: ClaimStore,
    begun: Int32Array,
  ): Iterable<Row> | AsyncIterable<Row> {
    const rows = this.#telling.amends ? changesIn(piece) : rowsIn(piece);
    const options = { ...this.#options, as };
    if (this.#telling.amends) return this.#amended(rows, options, begun);
    const { record, outside } = planOf(this.#intake);
    return record.length + outside.length === 0
      ? this.#atOnce(rows, options, begun)
      : this.#byAsking(rows, rowsBefore, options, claims, begun);
  }

  /** Where nobody is asked, a row is done before the next is read. */
  *#atOnce(rows: Iterable<Datum>, options: Options, begun: Int32Array): Generator<Row> {
    const plan = planOf(this.#intake);
    const settings = settingsOf(plan, options);
    let count = 0;
    for (const datum of rows) {
      begun[0] = ++count;
      if ('submission' in datum) {
        const run = begin(plan, datum.submission, options, settings);
        yield { datum, verdict: verdictOf(run, options.locale) };
      } else yield { datum };
    }
  }

  async *#byAsking(
    rows: Iterable<Datum>,
    rowsBefore: number,
    options: Options,
    claims: ClaimStore,
    begun: Int32Array,
  ): AsyncGenerator<Row> {
    const waiting: Datum[] = [];
    const numbers: number[] = [];
    let number = rowsBefore;
    const submissions = (function* () {
      for (const datum of rows) {
        number += 1;
        waiting.push(datum);
        if (!('submission' in datum)) continue;
        numbers.push(number);
        yield datum.submission;
      }
    })();
    const numberOf = () => {
      const next = numbers.shift() as number;
      begun[0] = next - rowsBefore;
      return next;
    };
    const inputs = { ...options, claims, numberOf, isApart: true, ...(this.#telling.explain && { chunk: 1 }) };
    const unreadable = function* (): Generator<Row> {
      while (waiting[0] && !('submission' in waiting[0])) yield { datum: waiting.shift() as Datum };
    };
    for await (const judged of judgeChunks(planOf(this.#intake), submissions, inputs)) {
      for (const { verdict } of judged) {
        yield* unreadable();
        yield { datum: waiting.shift() as Datum, verdict };
      }
    }
    yield* unreadable();
  }

  /** Changes to stored records, one after the other. */
  async *#amended(rows: Iterable<Datum>, options: Options, begun: Int32Array): AsyncGenerator<Row> {
    let count = 0;
    for (const datum of rows) {
      begun[0] = ++count;
      if (!('submission' in datum)) {
        yield { datum };
        continue;
      }
      const { stored, change, itself } = datum.submission as Change;
      yield { datum, verdict: await this.#intake.amend(stored, change, { ...options, ...(itself && { itself }) } as never) };
    }
  }
}

interface Row {
  readonly datum: Datum;
  /** None of what is unreadable. */
  readonly verdict?: Verdict<unknown>;
}

/** What is told of a piece while it is judged. */
class Told {
  readonly #telling: Telling;
  readonly #piece: Piece;
  readonly #printer: Printer | undefined;
  readonly #summary = new Summary();
  #told = '';
  readonly #rejected: string[] = [];
  readonly #notable: string[] = [];
  readonly #rowsBefore: number;
  #rows = 0;

  constructor(telling: Telling, piece: Piece, rowsBefore: number) {
    this.#rowsBefore = rowsBefore;
    this.#telling = telling;
    this.#piece = piece;
    this.#printer = telling.format === 'json' ? asJson : telling.format === 'text' ? asText(telling.look) : undefined;
  }

  add(datum: Datum, verdict: Verdict<unknown> | undefined, explained: Parameters<Printer['told']>[0]['explained']): void {
    this.#rows += 1;
    if (verdict) this.#summary.add(datum.origin, verdict);
    else this.#summary.unreadable(datum.origin);
    if (this.#telling.rejected && verdict?.outcome !== 'accepted') {
      const text = rejectedText(this.#piece, datum, verdict);
      if (text !== undefined) this.#rejected.push(text);
    }
    if (this.#telling.format === 'lines') {
      const line = verdictLine(this.#rowsBefore + this.#rows, datum, verdict);
      this.#told += line;
      if (!line.endsWith('"outcome":"accepted"}\n')) this.#notable.push(line);
    }
    if (this.#printer) this.#told += this.#printer.told({ datum, ...(verdict && { verdict }), ...(explained && { explained }) });
  }

  end(): Omit<Judged, 'claims' | 'entered'> {
    return { rows: this.#rows, summed: this.#summary.summed, told: this.#told, rejected: this.#rejected, notable: this.#notable };
  }
}

/** What came of a piece with one row that ends who judges it: the row is undecided. */
export function lostRow(telling: Omit<Telling, 'look'>, piece: Piece, rowsBefore: number, intake: LoadedIntake): Judged {
  const told = new Told({ ...telling, look: lookOf({}) }, piece, rowsBefore);
  const info = { rule: 'readable', use: 'readable', severity: 'error', why: 'fault' } as const;
  const cause = new Error(`This row ends whoever judges it, or takes without end, by something in "${intake.name}".`);
  const unsettled = [Object.defineProperty({ ...info, places: [{ field: '', pointer: '' }] }, 'cause', { value: cause })];
  const [datum = { origin: { file: piece.file, line: piece.linesBefore + 1 }, raw: undefined, submission: undefined }] = rowsIn(piece);
  told.add(datum, { outcome: 'undecided', warnings: [], unsettled }, undefined);
  return { ...told.end(), claims: [] };
}

/** A row of `--amends`. */
interface Change {
  readonly stored: object;
  readonly change: unknown;
  readonly itself?: object;
}

function* changesIn(piece: Piece): Generator<Datum> {
  for (const datum of rowsIn(piece)) {
    const { stored, change } = (('submission' in datum && datum.submission) || {}) as Partial<Change>;
    if (!('submission' in datum) || (typeof stored === 'object' && stored !== null && change !== undefined)) yield datum;
    else {
      const { origin, raw } = datum;
      yield {
        origin,
        raw,
        unreadable: 'no change: with --amends each row is { "stored": { … }, "change": { … } }, and "itself" with the key',
      };
    }
  }
}
