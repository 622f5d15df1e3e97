import type { Readable } from 'node:stream';
import type { Options } from '../core/intake.ts';
import { type MemoryData, memoryRecords } from '../records/memory.ts';
import { givenNames, type LoadedIntake, loadIntake } from './load-intake.ts';
import { EXIT, type Exit, Misuse } from './misuse.ts';
import { asJson, asText, type Counts, type Judged } from './print.ts';
import { readData, readJsonFile } from './read-data.ts';

export interface CheckOptions {
  readonly intake?: string;
  readonly records?: string;
  readonly given?: string;
  readonly as: 'json' | 'form';
  readonly locale: string;
  readonly now?: string;
  readonly occasion?: string;
  readonly report: 'everything' | 'firstOfEach' | 'firstOfAll';
  readonly explain?: boolean;
  readonly format: 'text' | 'json';
}

export interface Streams {
  readonly stdin: Readable;
  readonly out: (text: string) => void;
  readonly warn: (text: string) => void;
}

/** Judges every submission in the data files; gives the exit code. */
export async function check(modulePath: string, dataPaths: readonly string[], options: CheckOptions, streams: Streams): Promise<Exit> {
  const intake = await loadIntake(modulePath, options.intake);
  const settings = await settingsFor(intake, options, streams);
  const printer = options.format === 'json' ? asJson : asText;
  const counts: Counts = { accepted: 0, rejected: 0, undecided: 0, unreadable: 0 };
  for (const path of dataPaths) {
    for await (const datum of readData(path, streams.stdin)) {
      const judged: Judged =
        'unreadable' in datum ? datum : { source: datum.source, verdict: await intake.judge(datum.submission, settings as never) };
      counts['unreadable' in judged ? 'unreadable' : judged.verdict.outcome]++;
      streams.out(printer.judged(judged));
    }
  }
  streams.out(printer.end(counts));
  if (counts.unreadable > 0) return EXIT.misuse;
  return counts.rejected > 0 ? EXIT.rejected : counts.undecided > 0 ? EXIT.undecided : EXIT.accepted;
}

async function settingsFor(intake: LoadedIntake, options: CheckOptions, streams: Streams): Promise<Options & { readonly given?: object }> {
  const given = await givenFor(intake, options.given);
  const records = options.records === undefined ? undefined : await recordsFrom(options.records, intake, streams);
  const { as, locale, report, occasion, explain } = options;
  return {
    as,
    locale,
    report,
    ...(occasion !== undefined && { occasion }),
    ...(explain && { explain }),
    ...(options.now !== undefined && { now: momentOf(options.now) }),
    ...(records && { records: memoryRecords(records) }),
    ...(given && { given }),
  };
}

async function givenFor(intake: LoadedIntake, text: string | undefined): Promise<object | undefined> {
  const names = givenNames(intake);
  if (text === undefined) {
    if (names.length > 0)
      throw new Misuse(
        `Intake "${intake.name}" needs given values for ${names.join(', ')}; pass them with --given, as a JSON file or as JSON.`,
      );
    return undefined;
  }
  const value = text.trimStart().startsWith('{') ? parseInline(text) : await readJsonFile(text);
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new Misuse('--given must be a JSON object with the given fields by name.');
  return value;
}

function parseInline(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (cause) {
    throw new Misuse(`--given is not JSON: ${(cause as Error).message}.`);
  }
}

async function recordsFrom(path: string, intake: LoadedIntake, { warn }: Streams): Promise<MemoryData> {
  const data = await readJsonFile(path);
  const shape = `${path} must be a JSON object with a list of rows for each collection, such as { "berths": [{ "code": "A1" }] }`;
  if (typeof data !== 'object' || data === null || Array.isArray(data)) throw new Misuse(`${shape}.`);
  for (const [name, rows] of Object.entries(data)) {
    if (!Array.isArray(rows) || rows.some((row) => typeof row !== 'object' || row === null))
      throw new Misuse(`${shape}; "${name}" is none.`);
  }
  for (const { name } of intake.collections) {
    if (!Object.hasOwn(data, name)) warn(`${path} has no collection "${name}"; rules that ask it cannot be decided.\n`);
  }
  return data as MemoryData;
}

function momentOf(text: string): Date {
  const moment = new Date(text);
  if (Number.isNaN(moment.getTime())) throw new Misuse(`--now ${text} is not a moment; write it as 2031-05-01T09:00:00Z.`);
  return moment;
}
