import { stat } from 'node:fs/promises';
import { type Counts, Summary } from '../../screening/summary.ts';
import { type Context, STDIN } from '../basics/context.ts';
import { type LoadedIntake, loadIntake } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { refuseSame } from '../basics/same-file.ts';
import { lookOf } from '../basics/terminal.ts';
import { claimBook } from '../claims/book-of.ts';
import { newSeed } from '../claims/fingerprint.ts';
import { fieldsByColumn, strangersAmong } from '../reading/columns.ts';
import type { Format } from '../reading/data.ts';
import { piecesOf } from '../reading/pieces.ts';
import { type JudgingFlags, type Settings, settingsFor } from '../records/settings.ts';
import { judgedInOrder } from '../screening/in-order.ts';
import { type Judges, judgesHere, judgesInThreads } from '../screening/judges.ts';
import { PieceJudge, type Telling } from '../screening/piece-judge.ts';
import { RejectedFile } from '../screening/rejected.ts';
import type { Task } from '../screening/task.ts';
import { asJson, asText } from '../telling/print.ts';
import { type Progress, progressOf } from './progress.ts';

export interface CheckFlags extends JudgingFlags {
  readonly intake?: string;
  readonly as?: 'json' | 'form';
  readonly input?: Format;
  readonly delimiter?: string;
  readonly header?: string;
  readonly amends?: boolean;
  readonly explain?: boolean;
  readonly quiet?: boolean;
  readonly rejected?: string;
  readonly workers?: number;
  readonly stopAfter?: number;
  readonly format: 'text' | 'json';
}

/**
 * Judges every submission in the data files, all of them together, so that what two of them want is told of the second.
 */
export async function check(modulePath: string, dataPaths: readonly string[], given: CheckFlags, context: Context): Promise<Exit> {
  if (dataPaths.filter((path) => path === STDIN).length > 1) throw new Misuse('Standard input (-) can be named once.');
  refuseSame('--rejected', given.rejected, [...dataPaths, modulePath, given.records, given.given]);
  const intake = await loadIntake(modulePath, given.intake);
  // All rows are judged at one moment, wherever they are.
  const flags = { ...given, now: given.now ?? new Date().toISOString() };
  const settings = await settingsFor(intake, flags, context);
  try {
    const judges = await judgesFor(modulePath, intake, flags, settings, context);
    try {
      return await new Check(intake, flags, context, judges).run(dataPaths);
    } finally {
      await judges.close();
    }
  } finally {
    await settings.close();
  }
}

async function judgesFor(
  module: string,
  intake: LoadedIntake,
  flags: CheckFlags,
  { options }: Settings,
  { stdout, warn }: Context,
): Promise<Judges> {
  const seed = newSeed();
  const { workers = 1, quiet, rejected, amends = false, explain = false, format } = flags;
  const telling: Omit<Telling, 'look'> = { ...(!quiet && { format }), rejected: rejected !== undefined, amends, explain };
  if (workers === 1) return judgesHere(new PieceJudge(intake, options, { ...telling, look: lookOf(stdout) }, seed));
  const terminal = { isTTY: stdout.isTTY === true, ...(stdout.columns !== undefined && { columns: stdout.columns }) };
  return judgesInThreads(workers, intake, { module, intake: intake.name, flags, telling, terminal, seed }, warn);
}

class Check {
  readonly #intake: LoadedIntake;
  readonly #flags: CheckFlags;
  readonly #context: Context;
  readonly #judges: Judges;
  readonly #summary = new Summary();
  readonly #rejected: RejectedFile | undefined;
  #as: 'json' | 'form' | undefined;
  #progress: Progress | undefined;
  #isStopped = false;

  constructor(intake: LoadedIntake, flags: CheckFlags, context: Context, judges: Judges) {
    this.#intake = intake;
    this.#flags = flags;
    this.#context = context;
    this.#judges = judges;
    this.#as = flags.as;
    this.#rejected = flags.rejected === undefined ? undefined : new RejectedFile(flags.rejected);
  }

  async run(paths: readonly string[]): Promise<Exit> {
    const { quiet, format } = this.#flags;
    const printer = format === 'json' ? asJson : asText(lookOf(this.#context.stdout));
    const isShown = process.stderr.isTTY === true && (quiet === true || this.#context.stdout.isTTY !== true);
    this.#progress = progressOf(await sizeOf(paths), isShown);
    const stop = () => {
      this.#isStopped = true;
      this.#context.warn('\nStopping after what is begun; again to stop at once.\n');
    };
    process.once('SIGINT', stop);
    const claims = await claimBook(this.#intake);
    let isThrough = false;
    try {
      for await (const { judged } of judgedInOrder(this.#tasks(paths), this.#judges, claims.book)) {
        this.#summary.take(judged.summed);
        this.#context.note(exitOf(this.#summary.counts));
        this.#progress.judged(judged.rows);
        await this.#rejected?.add(judged.rejected);
        await this.#context.out(judged.told);
        const { rejected, undecided, unreadable } = this.#summary.counts;
        if (rejected + undecided + unreadable < (this.#flags.stopAfter ?? Number.POSITIVE_INFINITY)) continue;
        this.#isStopped = true;
        break;
      }
      isThrough = true;
    } finally {
      process.off('SIGINT', stop);
      claims.close();
      this.#progress.end();
      await (isThrough ? this.#rejected?.end() : this.#rejected?.drop());
    }
    await this.#context.out(printer.end(this.#summary));
    if (this.#isStopped) this.#context.warn('Stopped: what was read so far is told above.\n');
    return exitOf(this.#summary.counts);
  }

  async *#tasks(paths: readonly string[]): AsyncGenerator<Task> {
    const { input, delimiter, header } = this.#flags;
    const { pathOf, isField } = fieldsByColumn(this.#intake);
    let rowsBefore = 0;
    for (const path of paths) {
      const pieces = piecesOf(path, this.#context.stdin, {
        input,
        pathOf,
        isField,
        delimiter,
        header: header?.split(',').map((name) => name.trim()),
        read: (bytes) => this.#progress?.read(bytes),
        begun: ({ name, format, columns, delimiter: found }) => {
          this.#readAs(format, name);
          this.#rejected?.begin({ format, ...(columns && { columns }), ...(found !== undefined && { delimiter: found }) });
          const strangers = columns && strangersAmong(this.#intake, name, columns.paths);
          if (strangers) this.#context.warn(strangers);
        },
      });
      let rows = 0;
      for await (const piece of pieces) {
        if (this.#isStopped) return;
        yield { piece, rowsBefore: rowsBefore + piece.rowsBefore, as: this.#as ?? 'json' };
        rows += piece.rows;
      }
      rowsBefore += rows;
    }
  }

  /** Text is read as a form; JSON as it is, unless a flag says otherwise. */
  #readAs(format: Format, name: string): void {
    const isText = format === 'csv' || format === 'form';
    if (isText && this.#flags.as === 'json') throw new Misuse(`${name} holds text only, which --as json cannot read; leave it out.`);
    const as = isText ? 'form' : (this.#flags.as ?? 'json');
    if (this.#as !== undefined && this.#as !== as)
      throw new Misuse(`${name} is read otherwise than the file before it; check them one after the other.`);
    this.#as = as;
  }
}

/** Bytes of all files; `undefined` where one is a pipe. */
async function sizeOf(paths: readonly string[]): Promise<number | undefined> {
  const sizes = await Promise.all(paths.map((path) => (path === STDIN ? undefined : stat(path).catch(() => undefined))));
  return sizes.every((each) => each?.isFile()) ? sizes.reduce((sum, each) => sum + (each?.size ?? 0), 0) : undefined;
}

export function exitOf({ rejected, undecided, unreadable }: Counts): Exit {
  if (unreadable > 0) return EXIT.misuse;
  return rejected > 0 ? EXIT.rejected : undecided > 0 ? EXIT.undecided : EXIT.accepted;
}
