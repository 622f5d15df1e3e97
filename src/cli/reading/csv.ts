import { type CsvError, type Info, parse } from 'csv-parse';
import { formObject } from '../../forms/form.ts';
import { Misuse } from '../basics/misuse.ts';
import { KEPT_APART } from './apart.ts';
import type { Datum } from './data.ts';

/** How a CSV file is written. */
export interface CsvForm {
  /** Defaults to the one that the first line has most of: comma, semicolon, tab or bar. */
  readonly delimiter?: string | undefined;
  /** The names of the columns, where the file does not begin with them. */
  readonly header?: readonly string[] | undefined;
}

const DELIMITERS = [',', ';', '\t', '|'];

/** The delimiter that is asked for; a tab is hard to type in a shell. */
export function delimiterOf(asked: string | undefined): string | undefined {
  return asked === '\\t' || asked === 'tab' ? '\t' : asked;
}

/** The delimiter that stands most often outside quotes in a line. */
export function delimiterIn(line: string): string {
  const bare = line.replaceAll(/"(?:[^"]|"")*"/g, '');
  const counted = DELIMITERS.map((delimiter) => ({ delimiter, count: bare.split(delimiter).length }));
  return counted.reduce((best, each) => (each.count > best.count ? each : best)).delimiter;
}

/** The line that a header would be. */
export function firstLineOf(text: string): string {
  return /^\s*([^\r\n]*)/.exec(text)?.[1] ?? '';
}

/** The header of a file, and what its columns are called in the intake. */
export interface Columns {
  readonly header: readonly string[];
  /** By column the path of a field; columns that are kept apart have none. */
  readonly paths: readonly (string | undefined)[];
}

/** Finds the field of a column by its path, or by a label in some language. */
export type PathOf = (column: string) => string;

/**
 * Reads the rows of a CSV text (RFC 4180) as forms: a header names the fields by path (`crew.0.name`) or label. A row with more or fewer
 * cells than the header is unreadable, and does not stop the others.
 *
 * @param begun told the columns, once they are known
 */
export async function* csvIn(
  file: string,
  texts: AsyncIterable<string>,
  first: string,
  { delimiter = delimiterIn(firstLineOf(first)), header: given }: CsvForm,
  pathOf: PathOf,
  begun: (columns: Columns) => void,
): AsyncGenerator<Datum> {
  const parser = parse({ delimiter, info: true, relax_column_count: true, skip_empty_lines: true });
  const feeding = feed(texts, parser);
  let columns = given && columnsOf(given, pathOf, begun);
  try {
    for await (const each of parser as AsyncIterable<{ readonly record: string[]; readonly info: Info }>) {
      const { record, info } = each;
      if (!columns) {
        columns = columnsOf(record, pathOf, begun);
        continue;
      }
      const { header, paths } = columns;
      // The parser counts the line that a row ends in.
      const line = info.lines - record.reduce((breaks, cell) => breaks + cell.split('\n').length - 1, 0);
      const origin = { file, line };
      if (record.length !== header.length) {
        const problem = `${record.length === 1 ? '1 cell' : `${record.length} cells`} where the header has ${header.length}`;
        yield { origin, raw: record, unreadable: problem };
      } else {
        const named = record.flatMap((cell, at) => (paths[at] === undefined ? [] : [[paths[at], cell] as const]));
        yield { origin, raw: record, submission: formObject(named) };
      }
    }
    await feeding;
  } catch (cause) {
    const { code, message, lines } = cause as CsvError & { readonly lines: number };
    if (!code?.startsWith('CSV_')) throw cause;
    yield { origin: { file, line: lines }, raw: [], unreadable: `not CSV: ${toldOf(message)}` };
  }
  if (!columns) throw new Misuse(`${file} is empty; a CSV file begins with the names of its columns.`);
}

async function feed(texts: AsyncIterable<string>, parser: ReturnType<typeof parse>): Promise<void> {
  try {
    for await (const text of texts) {
      if (!parser.write(text)) await new Promise((resolve) => parser.once('drain', resolve));
    }
    parser.end();
  } catch (cause) {
    parser.destroy(cause as Error);
  }
}

function columnsOf(header: readonly string[], pathOf: PathOf, begun: (columns: Columns) => void): Columns {
  const names = header.map((name) => name.trim());
  const columns = { header, paths: names.map((name) => (KEPT_APART.has(name) ? undefined : pathOf(name))) };
  begun(columns);
  return columns;
}

/** What the parser says, without its names for things. */
function toldOf(message: string): string {
  if (/quote/i.test(message)) return 'a quoted cell does not end, or a quote stands inside a cell that is not quoted';
  return message.charAt(0).toLowerCase() + message.slice(1);
}
