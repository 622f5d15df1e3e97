import type { Columns } from './csv.ts';
import { endOfRow } from './csv-rows.ts';
import type { Format } from './data.ts';
import { endOfEntry, isLast } from './json-entries.ts';

/** A part of a file that begins and ends between its rows, so that it is read by itself. */
export interface Piece {
  /** The name of the file. */
  readonly file: string;
  readonly format: Format;
  /** Its text, in UTF-8. */
  readonly bytes: Uint8Array;
  /** Bytes of its UTF-8 text before it. */
  readonly from: number;
  /** Rows of the file before it; what cannot be read counts, blank lines do not. */
  readonly rowsBefore: number;
  readonly rows: number;
  /** Lines of the file before it. */
  readonly linesBefore: number;
  /** Of CSV. */
  readonly columns?: Columns;
  readonly delimiter?: string;
  /** What made an end of the file here, before its end. */
  readonly problem?: string;
}

const [LF, CR, QUOTE, SPACE] = [0x0a, 0x0d, 0x22, 0x20];

/** How much of some bytes are whole rows: their end, how many they are, and their lines. */
export interface Cut {
  readonly end: number;
  readonly rows: number;
  readonly lines: number;
  /** Of a list: it ends here. */
  readonly isLast?: boolean;
}

/** What has to be known of a piece to cut it. */
export type Form = Pick<Piece, 'format' | 'delimiter' | 'rowsBefore'>;

/**
 * Finds the last end of a row in some bytes that begin with a row.
 *
 * @param isEnd nothing comes behind: the last row needs no end
 * @param most so many rows and no more
 */
export function cut(
  bytes: Uint8Array,
  { format, delimiter = ',', rowsBefore }: Form,
  isEnd: boolean,
  most = Number.POSITIVE_INFINITY,
): Cut {
  if (format === 'list') return cutEntries(bytes, isEnd, most, rowsBefore);
  return format === 'csv' && bytes.includes(QUOTE)
    ? cutQuoted(bytes, isEnd, most, delimiter.charCodeAt(0))
    : cutLines(bytes, format, isEnd, most);
}

/** Entries with what stands behind them; an empty list has none. */
function cutEntries(bytes: Uint8Array, isEnd: boolean, most: number, rowsBefore: number): Cut {
  let [rows, start, isClosed] = [0, 0, false];
  while (rows < most && !isClosed) {
    const end = endOfEntry(bytes, start);
    if (end < 0) break;
    isClosed = isLast(bytes, end);
    if (!isClosed || rowsBefore + rows > 0 || isRow(bytes, start, end, 'list')) rows += 1;
    start = end + 1;
  }
  if (isEnd && !isClosed && rows < most) {
    if (isRow(bytes, start, bytes.length, 'list')) rows += 1;
    start = bytes.length;
  }
  return { end: start, rows, lines: linesIn(bytes.subarray(0, start)), isLast: isClosed };
}

export function linesIn(bytes: Uint8Array): number {
  let lines = 0;
  for (let at = bytes.indexOf(LF); at >= 0; at = bytes.indexOf(LF, at + 1)) lines += 1;
  return lines;
}

function cutLines(bytes: Uint8Array, format: Format, isEnd: boolean, most: number): Cut {
  let [rows, lines, start] = [0, 0, 0];
  for (let end = bytes.indexOf(LF); end >= 0; end = bytes.indexOf(LF, start)) {
    lines += 1;
    if (isRow(bytes, start, end, format)) rows += 1;
    start = end + 1;
    if (rows === most) return { end: start, rows, lines };
  }
  if (isEnd && start < bytes.length) {
    if (isRow(bytes, start, bytes.length, format)) rows += 1;
    return { end: bytes.length, rows, lines: lines + 1 };
  }
  return { end: start, rows, lines };
}

/** A line is a row unless it is blank; of CSV unless it is empty. */
export function isRow(bytes: Uint8Array, start: number, end: number, format: Format): boolean {
  if (format === 'csv') return end > start && !(end === start + 1 && bytes[start] === CR);
  for (let at = start; at < end; at++) {
    const byte = bytes[at] as number;
    // Beyond ASCII there are blanks too, and they are rare enough to be looked at as text.
    if (byte > 0x7f) return new TextDecoder().decode(bytes.subarray(start, end)).trim() !== '';
    if (byte !== SPACE && (byte < 0x09 || byte > CR)) return true;
  }
  return false;
}

/** A line break between quotes belongs to a cell, as far as they are sound. */
function cutQuoted(bytes: Uint8Array, isEnd: boolean, most: number, splitter: number): Cut {
  let [rows, lines, start] = [0, 0, 0];
  const found = { next: 0, lines: 0 };
  let quote = bytes.indexOf(QUOTE);
  while (start < bytes.length && rows < most) {
    const lineBreak = bytes.indexOf(LF, start);
    if (quote >= 0 && quote < start) quote = bytes.indexOf(QUOTE, start);
    let end: number;
    if (lineBreak >= 0 && (quote < 0 || lineBreak < quote)) {
      end = lineBreak;
      found.next = lineBreak + 1;
      found.lines = 1;
    } else {
      endOfRow(bytes, start, splitter, isEnd, found);
      if (found.next < 0) break;
      end = bytes[found.next - 1] === LF ? found.next - 1 : found.next;
    }
    if (isRow(bytes, start, end, 'csv')) rows += 1;
    lines += found.lines;
    start = found.next;
  }
  return { end: start, rows, lines };
}
