import { stat } from 'node:fs/promises';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntake } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { type Look, lookOf } from '../basics/terminal.ts';
import { fieldsByColumn, strangersAmong } from '../reading/columns.ts';
import type { Datum, Format } from '../reading/data.ts';
import { readData } from '../reading/read-data.ts';
import { STDIN } from '../reading/text-in.ts';
import { type JudgingFlags, type Settings, settingsFor } from '../records/settings.ts';
import { Explainer, Overheard } from './explain.ts';
import { asJson, asText } from './print.ts';
import { type Progress, progressOf } from './progress.ts';
import { RejectedRows } from './rejected.ts';
import { type Counts, Summary } from './summary.ts';

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
  readonly format: 'text' | 'json';
}

/**
 * Judges every submission in the data files, all of them together, so that what two of them want is told of the second.
 */
export async function check(modulePath: string, dataPaths: readonly string[], flags: CheckFlags, context: Context): Promise<Exit> {
  if (dataPaths.filter((path) => path === STDIN).length > 1) throw new Misuse('Standard input (-) can be named once.');
  const intake = await loadIntake(modulePath, flags.intake);
  const settings = await settingsFor(intake, flags, context);
  try {
    return await new Check(intake, flags, context, settings).run(dataPaths);
  } finally {
    await settings.close();
  }
}

class Check {
  readonly #intake: LoadedIntake;
  readonly #flags: CheckFlags;
  readonly #context: Context;
  readonly #settings: Settings;
  readonly #look: Look;
  readonly #summary = new Summary();
  readonly #rejected: RejectedRows | undefined;
  readonly #overheard: Overheard | undefined;
  #waiting: Datum[] = [];
  #as: 'json' | 'form' | undefined;
  #progress: Progress | undefined;

  constructor(intake: LoadedIntake, flags: CheckFlags, context: Context, settings: Settings) {
    this.#intake = intake;
    this.#flags = flags;
    this.#context = context;
    this.#settings = settings;
    this.#look = lookOf(context.stdout);
    this.#as = flags.as;
    this.#rejected = flags.rejected === undefined ? undefined : new RejectedRows(flags.rejected);
    this.#overheard = flags.explain ? new Overheard() : undefined;
  }

  async run(paths: readonly string[]): Promise<Exit> {
    const { format, explain } = this.#flags;
    const printer = format === 'json' ? asJson : asText(this.#look);
    const explainer = explain ? new Explainer(this.#intake, this.#settings.options.given) : undefined;
    this.#progress = progressOf(
      await sizeOf(paths),
      process.stderr.isTTY === true && (this.#flags.quiet === true || this.#context.stdout.isTTY !== true),
    );
    for await (const { datum, verdict } of this.#judged(paths)) {
      if (verdict) this.#summary.add(datum.origin, verdict);
      else this.#summary.unreadable();
      this.#context.note(exitOf(this.#summary.counts));
      this.#progress.judged();
      if (verdict?.outcome !== 'accepted') this.#rejected?.add(datum, verdict);
      if (this.#flags.quiet) continue;
      const explained =
        verdict && explainer?.explain('submission' in datum ? datum.submission : undefined, verdict, this.#overheard?.take() ?? []);
      const waiting = this.#context.out(printer.told({ datum, ...(verdict && { verdict }), ...(explained && { explained }) }));
      if (waiting) await waiting;
    }
    this.#progress.end();
    await this.#rejected?.end();
    await this.#context.out(printer.end(this.#summary));
    return exitOf(this.#summary.counts);
  }

  /** Every piece of data, in order, with its verdict unless it is unreadable. */
  async *#judged(paths: readonly string[]) {
    const { options } = this.#settings;
    const records = options.records && this.#overheard ? this.#overheard.listeningTo(options.records) : options.records;
    // How values are read is known once the first of them is.
    const submissions = this.#submissions(paths);
    const first = await submissions.next();
    const as = this.#as ?? 'json';
    const all = { ...options, ...(records && { records }), as, ...(this.#flags.explain && { explain: true, chunk: 1 }) };
    const verdicts = this.#flags.amends
      ? this.#amended(resumed(first, submissions), all)
      : (this.#intake.judgeMany(resumed(first, submissions), all as never) as AsyncIterable<{ readonly verdict: never }>);
    for await (const { verdict } of verdicts) {
      yield* this.#unreadable();
      yield { datum: this.#waiting.shift() as Datum, verdict };
    }
    yield* this.#unreadable();
  }

  /** Changes to stored records, one after the other. */
  async *#amended(submissions: AsyncIterable<unknown>, options: object) {
    for await (const submission of submissions) {
      const { stored, change, itself } = submission as Change;
      yield { verdict: await this.#intake.amend(stored, change, { ...options, ...(itself && { itself }) } as never) };
    }
  }

  async *#submissions(paths: readonly string[]): AsyncGenerator<unknown> {
    const { input, delimiter, header } = this.#flags;
    const { pathOf, isField } = fieldsByColumn(this.#intake);
    for (const path of paths) {
      const data = readData(path, this.#context.stdin, {
        input,
        pathOf,
        isField,
        delimiter,
        header: header?.split(',').map((name) => name.trim()),
        read: (bytes) => this.#progress?.read(bytes),
        begun: ({ name, format, columns, delimiter: found }) => {
          this.#readAs(format, name);
          this.#rejected?.begin(format, columns, found);
          const strangers = columns && strangersAmong(this.#intake, name, columns.paths);
          if (strangers) this.#context.warn(strangers);
        },
      });
      for await (const read of data) {
        const datum = this.#flags.amends ? asChange(read) : read;
        this.#waiting.push(datum);
        if ('submission' in datum) yield datum.submission;
      }
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

  /** What is unreadable, up to the next submission. */
  *#unreadable(): Generator<{ readonly datum: Datum; readonly verdict?: never }> {
    while (this.#waiting[0] && !('submission' in this.#waiting[0])) yield { datum: this.#waiting.shift() as Datum };
  }
}

async function* resumed<T>(first: IteratorResult<T, unknown>, rest: AsyncGenerator<T>): AsyncGenerator<T> {
  if (first.done) return;
  yield first.value;
  yield* rest;
}

/** Bytes of all files; `undefined` where one is a pipe. */
async function sizeOf(paths: readonly string[]): Promise<number | undefined> {
  const sizes = await Promise.all(paths.map((path) => (path === STDIN ? undefined : stat(path).catch(() => undefined))));
  return sizes.every((each) => each?.isFile()) ? sizes.reduce((sum, each) => sum + (each?.size ?? 0), 0) : undefined;
}

function exitOf({ rejected, undecided, unreadable }: Counts): Exit {
  if (unreadable > 0) return EXIT.misuse;
  return rejected > 0 ? EXIT.rejected : undecided > 0 ? EXIT.undecided : EXIT.accepted;
}

/** A row of `--amends`. */
interface Change {
  readonly stored: object;
  readonly change: unknown;
  readonly itself?: object;
}

function asChange(datum: Datum): Datum {
  const { stored, change } = (('submission' in datum && datum.submission) || {}) as Partial<Change>;
  if (!('submission' in datum) || (typeof stored === 'object' && stored !== null && change !== undefined)) return datum;
  const { origin, raw } = datum;
  return {
    origin,
    raw,
    unreadable: 'no change: with --amends each row is { "stored": { … }, "change": { … } }, and "itself" with the key',
  };
}
