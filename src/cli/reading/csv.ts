import type { CsvError } from 'csv-parse';
import { parse } from 'csv-parse/sync';
import { formObject } from '../../forms/form.ts';
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

/** The columns of a header. */
export function columnsIn(header: readonly string[], pathOf: PathOf): Columns {
  const names = header.map((name) => name.trim());
  return { header, paths: names.map((name) => (KEPT_APART.has(name) ? undefined : pathOf(name))) };
}

/** The cells of the first row of a text. */
export function headerIn(text: string, delimiter: string | undefined): readonly string[] {
  return recordsIn(text, delimiter).records[0] ?? [];
}

interface Parsed {
  readonly records: readonly (readonly string[])[];
  /** Where the text stops being CSV, and why. */
  readonly problem?: { readonly line: number; readonly told: string };
}

function recordsIn(text: string, delimiter: string | undefined): Parsed {
  const records: string[][] = [];
  try {
    parse(text, {
      ...(delimiter !== undefined && { delimiter }),
      relax_column_count: true,
      skip_empty_lines: true,
      on_record: (each) => {
        // What was read before a mistake stays read.
        records.push(each as string[]);
        return null;
      },
    });
    return { records };
  } catch (cause) {
    const { code, message, lines } = cause as CsvError & { readonly lines: number };
    if (!code?.startsWith('CSV_')) throw cause;
    return { records, problem: { line: lines, told: `not CSV: ${toldOf(message)}` } };
  }
}

/**
 * Reads the rows of a CSV text (RFC 4180) as forms: the columns are named by path (`crew.0.name`) or label. A row with more or fewer cells
 * than the header is unreadable, and does not stop the others.
 *
 * @param linesBefore lines of the file before the text
 */
export function* csvIn(
  file: string,
  text: string,
  { header, paths }: Columns,
  delimiter: string | undefined,
  linesBefore: number,
): Generator<Datum> {
  const { records, problem } = recordsIn(text, delimiter);
  const lines = linesOfRows(text);
  for (const [at, record] of records.entries()) {
    const line = linesBefore + (lines[at] ?? lines.length) + 1;
    const origin = { file, line };
    if (record.length !== header.length) {
      const cells = record.length === 1 ? '1 cell' : `${record.length} cells`;
      yield { origin, raw: record, unreadable: `${cells} where the header has ${header.length}` };
    } else yield { origin, raw: record, submission: formObject(named(record, paths)) };
  }
  if (problem) yield { origin: { file, line: linesBefore + problem.line }, raw: [], unreadable: problem.told };
}

/** The lines in which the rows of a text begin, counted from 0. A line break between quotes begins no row, and an empty line is none. */
function linesOfRows(text: string): number[] {
  const lines: number[] = [];
  let [line, start, begun, isQuoted] = [0, 0, 0, false];
  let quote = text.indexOf('"');
  for (let at = text.indexOf('\n'); start < text.length; at = text.indexOf('\n', at + 1)) {
    const end = at < 0 ? text.length : at;
    for (; quote >= 0 && quote < end; quote = text.indexOf('"', quote + 1)) isQuoted = !isQuoted;
    const isEmpty = begun === line && (end === start || (end === start + 1 && text[start] === '\r'));
    line += 1;
    start = end + 1;
    if (isQuoted && at >= 0) continue;
    if (!isEmpty) lines.push(begun);
    begun = line;
    if (at < 0) break;
  }
  return lines;
}

function* named(record: readonly string[], paths: Columns['paths']): Generator<readonly [string, string]> {
  for (let at = 0; at < record.length; at++) {
    const path = paths[at];
    if (path !== undefined) yield [path, record[at] as string];
  }
}

/** What the parser says, without its names for things. */
function toldOf(message: string): string {
  if (/quote/i.test(message)) return 'a quoted cell does not end, or a quote stands inside a cell that is not quoted';
  return message.charAt(0).toLowerCase() + message.slice(1);
}
