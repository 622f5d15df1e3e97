import { createReadStream } from 'node:fs';
import { readFile, stat } from 'node:fs/promises';
import { createInterface } from 'node:readline';
import type { Readable } from 'node:stream';
import { type ParseError, parse, printParseErrorCode } from 'jsonc-parser';
import { Misuse } from './misuse.ts';

/** One submission, or a place in the data that is not JSON. */
export type Datum = { readonly source: string; readonly submission: unknown } | { readonly source: string; readonly unreadable: string };

/** Standard input, by name. */
const STDIN = '-';

/**
 * Reads submissions: a `.json` file holds one, or a list of them; a `.ndjson` or `.jsonl` file one a line.
 * Standard input (`-`) may be either. A line that is not JSON does not stop the others.
 */
export async function* readData(path: string, stdin: Readable): AsyncGenerator<Datum> {
  if (path === STDIN) yield* readStream(stdin);
  else if (/\.(ndjson|jsonl)$/i.test(path)) yield* readLines(path, linesOf(await openFile(path)));
  else yield* readWhole(path, await readText(path));
}

/** A JSON file that an option names. */
export async function readJsonFile(path: string): Promise<unknown> {
  const text = await readText(path);
  const read = parseJson(text);
  if ('problem' in read) throw new Misuse(`${path} is not JSON: ${read.problem}.`);
  return read.value;
}

async function openFile(path: string): Promise<Readable> {
  await checkFile(path);
  return createReadStream(path);
}

async function readText(path: string): Promise<string> {
  await checkFile(path);
  return withoutMark(await readFile(path, 'utf8'));
}

async function checkFile(path: string): Promise<void> {
  const found = await stat(path).catch(() => undefined);
  if (!found) throw new Misuse(`There is no file ${path}.`);
  if (!found.isFile()) throw new Misuse(`${path} is a folder; name the files in it.`);
}

// The lines of a file that has no byte order mark are the file.
function withoutMark(text: string): string {
  return text.charCodeAt(0) === 0xfeff ? text.slice(1) : text;
}

interface Line {
  readonly number: number;
  readonly text: string;
}

async function* linesOf(stream: Readable): AsyncGenerator<Line> {
  let number = 0;
  for await (const text of createInterface({ input: stream, crlfDelay: Number.POSITIVE_INFINITY })) {
    number++;
    yield { number, text: number === 1 ? withoutMark(text) : text };
  }
}

async function* readLines(name: string, lines: AsyncIterable<Line>): AsyncGenerator<Datum> {
  for await (const { number, text } of lines) {
    if (text.trim() !== '') yield datumOf(`${name}, line ${number}`, text);
  }
}

/** Standard input is one a line when its first line is a whole JSON object. */
async function* readStream(stdin: Readable): AsyncGenerator<Datum> {
  const lines = linesOf(stdin);
  const name = 'standard input';
  const first = await firstLineOf(lines);
  if (first === undefined) throw new Misuse('Nothing came on standard input; pipe a submission into the command.');
  if (isWholeObject(first.text)) {
    yield datumOf(`${name}, line ${first.number}`, first.text);
    return yield* readLines(name, lines);
  }
  const texts = [...new Array<string>(first.number - 1).fill(''), first.text];
  for await (const { text } of lines) texts.push(text);
  yield* readWhole(name, texts.join('\n'));
}

async function firstLineOf(lines: AsyncGenerator<Line>): Promise<Line | undefined> {
  for (;;) {
    const { value, done } = await lines.next();
    if (done) return undefined;
    if (value.text.trim() !== '') return value;
  }
}

function isWholeObject(text: string): boolean {
  const read = parseJson(text);
  return 'value' in read && typeof read.value === 'object' && read.value !== null && !Array.isArray(read.value);
}

function* readWhole(name: string, text: string): Generator<Datum> {
  const read = parseJson(text);
  if ('problem' in read) yield { source: name, unreadable: read.problem };
  else if (Array.isArray(read.value)) {
    for (const [index, submission] of read.value.entries()) yield { source: `${name}, entry ${index + 1}`, submission };
  } else yield { source: name, submission: read.value };
}

function datumOf(source: string, text: string): Datum {
  const read = parseJson(text);
  return 'problem' in read ? { source, unreadable: read.problem } : { source, submission: read.value };
}

/** The value of a JSON text, or where it stops being JSON and why. */
function parseJson(text: string): { readonly value: unknown } | { readonly problem: string } {
  try {
    return { value: JSON.parse(text) };
  } catch {
    return { problem: problemIn(text) };
  }
}

// JSON.parse tells the offset only for some mistakes, so another parser finds the line.
function problemIn(text: string): string {
  if (text.trim() === '') return 'it is empty';
  const errors: ParseError[] = [];
  try {
    parse(text, errors, { disallowComments: true, allowTrailingComma: false });
  } catch {
    return 'it is nested too deeply to find the mistake';
  }
  const [first] = errors;
  if (!first) return 'it holds a character that JSON does not allow';
  const before = text.slice(0, first.offset).split('\n');
  const what = printParseErrorCode(first.error)
    .replaceAll(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase();
  return `${before.length > 1 || text.includes('\n') ? `line ${before.length}, ` : ''}column ${(before.at(-1) as string).length + 1}: ${what}`;
}
