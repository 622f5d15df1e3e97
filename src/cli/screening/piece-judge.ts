import { claimsAlone } from '../../core/asking/claims-alone.ts';
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
import { AskedClaims, ListedClaims } from '../claims/asking.ts';
import type { Tells } from '../claims/claim-book.ts';
import { type ClaimList, NO_CLAIMS } from '../claims/claim-list.ts';
import type { Seed } from '../claims/fingerprint.ts';
import { type Answers, Settled } from '../claims/settle.ts';
import type { Datum } from '../reading/data.ts';
import type { Piece } from '../reading/piece.ts';
import { eachRow, rowsIn } from '../reading/rows-in.ts';
import { Explainer, Overheard } from '../telling/explain.ts';
import { asJson, asText, type Printer } from '../telling/print.ts';
import { verdictLine } from './as-rows.ts';
import { rejectedText } from './rejected.ts';
import type { Task } from './task.ts';

/** What is to be told of each row. */
export interface Telling {
  /** How verdicts are written; nothing of them when only the summary is. */
  readonly format?: 'text' | 'json' | 'lines';
  readonly look: Look;
  readonly rejected: boolean;
  /** The values of accepted rows are wanted. */
  readonly accepted?: boolean;
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
  /** The values that were accepted, one a line, each behind the number of its row. */
  readonly accepted: string;
  /** Of lines those that are not only accepted. */
  readonly notable: readonly string[];
  /** What its rows asked, where they were told of each other only. */
  readonly claims: ClaimList;
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

  readonly #seed: Seed;

  /** @param seed of the fingerprints of what rows claim: the same wherever rows of one source are judged */
  constructor(intake: LoadedIntake, options: Options & { readonly given?: object }, telling: Telling, seed: Seed) {
    this.#intake = intake;
    this.#seed = seed;
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

  /** @param tells who knows what all rows before have claimed; otherwise the rows of the piece know of each other only */
  async judge({ piece, rowsBefore, as, answers, begun = new Int32Array(1) }: Task, tells?: Tells): Promise<Judged> {
    await this.#prepare(piece.rows);
    const listed = tells || answers ? undefined : new ListedClaims(rowsBefore);
    const telling = new Told(this.#telling, piece, rowsBefore);
    const { record, outside } = planOf(this.#intake);
    const options = { ...this.#options, as };
    if (this.#telling.amends) await this.#amended(changesIn(piece), options, begun, telling);
    else if (record.length + outside.length === 0) this.#atOnce(piece, options, begun, telling);
    else {
      const apart = new AskedClaims(this.#seed, tells ?? listed ?? new Settled(answers as Answers));
      await this.#byAsking(rowsIn(piece), rowsBefore, { ...options, apart }, begun, telling);
    }
    return { ...telling.end(), claims: listed?.list ?? NO_CLAIMS };
  }

  /** What the rows of a piece ask, found out without what the application has written about them. */
  async claims({ piece, rowsBefore, as }: Task): Promise<ClaimList> {
    if (this.#telling.amends) return NO_CLAIMS;
    const listed = new ListedClaims(rowsBefore);
    const { records, ...options } = this.#options;
    const apart = new AskedClaims(this.#seed, listed);
    const submissions = rowsIn(piece).flatMap((datum) => ('submission' in datum ? [datum.submission] : []));
    for await (const _ of judgeChunks(claimsAlone(planOf(this.#intake)), submissions, { ...options, as, apart, rowsBefore }));
    return listed.list;
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

  /** Where nobody is asked, a row is done before the next is read. */
  #atOnce(piece: Piece, options: Options, begun: Int32Array, telling: Told): void {
    const plan = planOf(this.#intake);
    const settings = settingsOf(plan, options);
    let count = 0;
    eachRow(piece, (datum) => {
      begun[0] = ++count;
      const verdict = 'submission' in datum ? verdictOf(begin(plan, datum.submission, options, settings), options.locale) : undefined;
      this.#tell(telling, datum, verdict);
    });
  }

  async #byAsking(
    data: readonly Datum[],
    rowsBefore: number,
    options: Options & { readonly apart: AskedClaims },
    begun: Int32Array,
    telling: Told,
  ): Promise<void> {
    const read = data.flatMap((datum, at) => ('submission' in datum ? [{ submission: datum.submission, at }] : []));
    let [turn, told] = [0, 0];
    const numberOf = () => {
      const number = (read[turn++]?.at as number) + 1;
      begun[0] = number;
      return rowsBefore + number;
    };
    const tellTo = (end: number) => {
      for (; told < end; told++) this.#tell(telling, data[told] as Datum, undefined);
    };
    const submissions = read.map(({ submission }) => submission);
    const inputs = { ...options, numberOf, ...(this.#telling.explain && { chunk: 1 }) };
    for await (const judged of judgeChunks(planOf(this.#intake), submissions, inputs)) {
      for (const { row, verdict } of judged) {
        tellTo(row - rowsBefore - 1);
        this.#tell(telling, data[told++] as Datum, verdict);
      }
    }
    tellTo(data.length);
  }

  /** Changes to stored records, one after the other. */
  async #amended(rows: Iterable<Datum>, options: Options, begun: Int32Array, telling: Told): Promise<void> {
    let count = 0;
    for (const datum of rows) {
      begun[0] = ++count;
      if ('submission' in datum) {
        const { stored, change, itself } = datum.submission as Change;
        this.#tell(telling, datum, await this.#intake.amend(stored, change, { ...options, ...(itself && { itself }) } as never));
      } else this.#tell(telling, datum, undefined);
    }
  }
}

/** What is told of a piece while it is judged. */
class Told {
  readonly #telling: Telling;
  readonly #piece: Piece;
  readonly #printer: Printer | undefined;
  readonly #summary = new Summary();
  #told = '';
  readonly #rejected: string[] = [];
  #accepted = '';
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
    if (this.#telling.accepted && verdict?.outcome === 'accepted')
      this.#accepted += `[${this.#rowsBefore + this.#rows},${JSON.stringify(verdict.value)}]\n`;
    if (this.#telling.format === 'lines') {
      const line = verdictLine(this.#rowsBefore + this.#rows, datum, verdict);
      this.#told += line;
      if (!line.endsWith('"outcome":"accepted"}\n')) this.#notable.push(line);
    }
    if (this.#printer) this.#told += this.#printer.told({ datum, ...(verdict && { verdict }), ...(explained && { explained }) });
  }

  end(): Omit<Judged, 'claims'> {
    return {
      rows: this.#rows,
      summed: this.#summary.summed,
      told: this.#told,
      rejected: this.#rejected,
      accepted: this.#accepted,
      notable: this.#notable,
    };
  }
}

/** What came of a piece with one row that ends who judges it: the row is undecided. */
export function lostRow(telling: Omit<Telling, 'look'>, { piece, rowsBefore }: Task, intake: LoadedIntake, claims: ClaimList): Judged {
  const told = new Told({ ...telling, look: lookOf({}) }, piece, rowsBefore);
  const info = { rule: 'readable', use: 'readable', severity: 'error', why: 'fault' } as const;
  const cause = new Error(`This row ends whoever judges it, or takes without end, by something in "${intake.name}".`);
  const unsettled = [Object.defineProperty({ ...info, places: [{ field: '', pointer: '' }] }, 'cause', { value: cause })];
  const [datum = { origin: { file: piece.file, line: piece.linesBefore + 1 }, raw: undefined, submission: undefined }] = rowsIn(piece);
  told.add(datum, { outcome: 'undecided', warnings: [], unsettled }, undefined);
  // What cannot be read claims nothing.
  return { ...told.end(), claims: datum.unreadable === undefined ? claims : NO_CLAIMS };
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
