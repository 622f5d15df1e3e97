import type { Readable } from 'node:stream';
import { formObject } from '../../forms/form.ts';
import { Misuse } from '../basics/misuse.ts';
import { withoutNotes } from './apart.ts';
import { type Columns, type CsvForm, csvIn, delimiterIn, delimiterOf, firstLineOf, type PathOf } from './csv.ts';
import type { Datum, Format } from './data.ts';
import { readJson } from './json.ts';
import { linesIn, NotText, open, textIn } from './text-in.ts';

/** How data is read. */
export interface ReadingOptions extends CsvForm {
  /** Defaults to what the name of a file says, else to what it holds. */
  readonly input?: Format | undefined;
  readonly pathOf: PathOf;
  /** Whether a word is the path or label of a field. */
  readonly isField: (word: string) => boolean;
  /** Told how much of a file was read. */
  readonly read?: (bytes: number) => void;
  /** Told of each file, before its first datum. */
  readonly begun?: (begun: {
    readonly name: string;
    readonly format: Format;
    readonly columns?: Columns;
    readonly delimiter?: string;
  }) => void;
}

/** Characters of one JSON text at most, since it is held as a whole. */
const MOST_WHOLE = 400_000_000;
/** Characters looked at to tell what a file holds. */
const LOOKED_AT = 1_000_000;

/**
 * Reads submissions: JSON holds one, or a list of them; NDJSON one a line; CSV one a row; URL-encoded text one a line. What is unreadable
 * does not stop the rest of its file.
 */
export async function* readData(path: string, stdin: Readable, options: ReadingOptions): AsyncGenerator<Datum> {
  const { name, stream } = await open(path, stdin);
  const texts = textIn(stream, options.read);
  const head = await headOf(texts, options);
  if (head.text.trim() === '' && !head.problem)
    throw new Misuse(
      name === path ? `${name} is empty; it holds no submission.` : 'Nothing came on standard input; pipe a submission into the command.',
    );
  const format = options.input ?? formatOf(path, head.text, options);
  const all = head.rest();
  const delimiter = format === 'csv' ? (delimiterOf(options.delimiter) ?? delimiterIn(firstLineOf(head.text))) : undefined;
  if (format !== 'csv') options.begun?.({ name, format });
  try {
    if (format === 'csv')
      yield* csvIn(name, all, head.text, { ...options, delimiter }, options.pathOf, (columns) =>
        options.begun?.({ name, format, columns, ...(delimiter !== undefined && { delimiter }) }),
      );
    else if (format === 'json') yield* readWhole(name, all);
    else yield* readLines(name, all, format);
  } catch (cause) {
    if (!(cause instanceof NotText)) throw cause;
    yield { origin: { file: name }, raw: undefined, unreadable: cause.message };
  }
}

/** A JSON or NDJSON file that an option names, as a list of values; or its one value. */
export async function readJsonFile(path: string, stdin: Readable): Promise<unknown> {
  const { stream } = await open(path, stdin);
  let text = '';
  try {
    for await (const piece of textIn(stream)) text += piece;
  } catch (cause) {
    if (cause instanceof NotText) throw new Misuse(`${path} is not JSON: it holds ${cause.message}.`);
    throw cause;
  }
  const read = readJson(text);
  if ('value' in read) return read.value;
  const lines = text.split('\n').filter((line) => line.trim() !== '');
  const values = lines.length > 1 ? lines.map(readJson) : [];
  if (values.length > 0 && values.every((value) => 'value' in value)) return values.map(({ value }) => value);
  throw new Misuse(`${path} is not JSON: ${read.problem}.`);
}

/** The beginning of a text, as far as it takes to tell what it is, and all of it. */
async function headOf(texts: AsyncGenerator<string>, { input }: ReadingOptions) {
  let text = '';
  let problem: NotText | undefined;
  try {
    while (text.length < LOOKED_AT && (input === undefined || input === 'csv' || text === '')) {
      const { value, done } = await texts.next();
      if (done) break;
      text += value;
      if (text.trimStart().includes('\n')) break;
    }
  } catch (cause) {
    if (!(cause instanceof NotText)) throw cause;
    problem = cause;
  }
  return {
    text,
    problem,
    async *rest() {
      if (text !== '') yield text;
      if (problem) throw problem;
      yield* texts;
    },
  };
}

function formatOf(path: string, text: string, { isField }: ReadingOptions): Format {
  if (/\.(ndjson|jsonl)$/i.test(path)) return 'ndjson';
  if (/\.(csv|tsv)$/i.test(path)) return 'csv';
  const first = firstLineOf(text).trim();
  if (first.startsWith('[')) return 'json';
  if (first.startsWith('{')) return isWholeObject(first) ? 'ndjson' : 'json';
  if (/\.json$/i.test(path)) return 'json';
  if (/^[^\s=&,;]+=[^&]*(&[^\s=&]+=[^&]*)*$/.test(first)) return 'form';
  const names = first.split(delimiterIn(first)).map((name) => name.trim().replaceAll('"', ''));
  return names.some(isField) ? 'csv' : 'json';
}

function isWholeObject(text: string): boolean {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === 'object' && value !== null;
  } catch {
    return false;
  }
}

async function* readLines(file: string, texts: AsyncIterable<string>, format: Format): AsyncGenerator<Datum> {
  for await (const { number: line, text } of linesIn(texts)) {
    if (text.trim() === '') continue;
    const origin = { file, line };
    if (format === 'form') yield { origin, raw: text, submission: withoutNotes(formObject(new URLSearchParams(text.trim()))) };
    else {
      const read = readJson(text);
      if ('problem' in read) yield { origin, raw: text, unreadable: `not JSON: ${read.problem}` };
      else yield { origin, raw: read.value, submission: withoutNotes(read.value) };
    }
  }
}

async function* readWhole(file: string, texts: AsyncIterable<string>): AsyncGenerator<Datum> {
  const pieces: string[] = [];
  let length = 0;
  for await (const text of texts) {
    pieces.push(text);
    length += text.length;
    if (length > MOST_WHOLE) throw new Misuse(`${file} is too large for one JSON text; write one submission a line (NDJSON).`);
  }
  const read = readJson(pieces.join(''));
  if ('problem' in read) yield { origin: { file }, raw: undefined, unreadable: `not JSON: ${read.problem}` };
  else if (!Array.isArray(read.value)) yield { origin: { file }, raw: read.value, submission: withoutNotes(read.value) };
  else
    for (const [index, value] of read.value.entries())
      yield { origin: { file, entry: index + 1 }, raw: value, submission: withoutNotes(value) };
}
