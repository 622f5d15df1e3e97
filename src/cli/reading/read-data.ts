import type { Readable } from 'node:stream';
import { Misuse } from '../basics/misuse.ts';
import type { Datum } from './data.ts';
import { readJson } from './json.ts';
import { piecesOf, type ReadingOptions } from './pieces.ts';
import { rowsIn } from './rows-in.ts';
import { NotText, open, textIn } from './text-in.ts';

/**
 * Reads submissions: JSON holds one, or a list of them; NDJSON one a line; CSV one a row; URL-encoded text one a line. What is unreadable
 * does not stop the rest of its file.
 */
export async function* readData(path: string, stdin: Readable, options: ReadingOptions): AsyncGenerator<Datum> {
  for await (const piece of piecesOf(path, stdin, options)) yield* rowsIn(piece);
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
