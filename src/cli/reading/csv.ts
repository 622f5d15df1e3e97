import { formReader } from '../../forms/form.ts';
import { Misuse } from '../basics/misuse.ts';
import { KEPT_APART } from './apart.ts';
import { splitRows } from './csv-rows.ts';
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
  const delimiter = asked === '\\t' || asked === 'tab' ? '\t' : asked;
  if (delimiter !== undefined && !/^[\t -~]$/.test(delimiter.replace('"', '')))
    throw new Misuse('--delimiter takes one character of ASCII, and no quote; of a tab write "tab".');
  return delimiter;
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

/** The cells of the first row of a text; none where it cannot be read. */
export function headerIn(text: string, delimiter: string): readonly string[] | undefined {
  let first: readonly string[] | string | undefined;
  splitRows(text, delimiter, (cells) => {
    first ??= cells;
  });
  return typeof first === 'string' ? undefined : (first ?? []);
}

const NO_CSV = 'not CSV: a quoted cell does not end, or a quote stands inside a cell that is not quoted';
const NO_TEXT = 'bytes that are not UTF-8';

/**
 * Reads the rows of a CSV text (RFC 4180) as forms: the columns are named by path (`crew.0.name`) or label. A row with more or fewer cells
 * than the header is unreadable, as is a line with a stray quote, and neither stops the others.
 *
 * @param linesBefore lines of the file before the text
 */
export function eachOfCsv(
  file: string,
  bytes: Uint8Array,
  text: string | undefined,
  { header, paths }: Columns,
  delimiter: string,
  linesBefore: number,
  take: (datum: Datum) => void,
): void {
  const submissionOf = formReader(paths);
  const takeRow = (cells: readonly string[] | string, at: number, isBroken = false) => {
    const origin = { file, line: linesBefore + at + 1 };
    if (typeof cells === 'string') take({ origin, raw: cells, unreadable: NO_CSV });
    else if (isBroken) take({ origin, raw: cells, unreadable: NO_TEXT });
    else if (cells.length === header.length) take({ origin, raw: cells, submission: submissionOf(cells) });
    else {
      const count = cells.length === 1 ? '1 cell' : `${cells.length} cells`;
      take({ origin, raw: cells, unreadable: `${count} where the header has ${header.length}` });
    }
  };
  if (text !== undefined) return splitRows(text, delimiter, takeRow);
  // Some bytes are no text: rows are found by bytes, and each cell is read by itself.
  const lossy = new TextDecoder();
  splitRows(
    Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).toString('latin1'),
    delimiter,
    (cells, at) => {
      const read = (cell: string) => lossy.decode(Buffer.from(cell, 'latin1'));
      if (typeof cells === 'string') takeRow(read(cells), at);
      else {
        const texts = cells.map(read);
        takeRow(
          texts,
          at,
          // In place of each byte that is none, the decoder has put this character.
          texts.some((cell) => cell.includes('\ufffd')),
        );
      }
    },
    true,
  );
}
