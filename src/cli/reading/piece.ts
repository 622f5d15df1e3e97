import type { Columns } from './csv.ts';
import type { Format } from './data.ts';

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
}

/**
 * Finds the last end of a row in some bytes that begin with a row.
 *
 * @param isEnd nothing comes behind: the last row needs no end
 * @param most so many rows and no more
 */
export function cut(bytes: Uint8Array, format: Format, isEnd: boolean, most = Number.POSITIVE_INFINITY): Cut {
  return format === 'csv' && bytes.includes(QUOTE) ? cutQuoted(bytes, isEnd, most) : cutLines(bytes, format, isEnd, most);
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
function isRow(bytes: Uint8Array, start: number, end: number, format: Format): boolean {
  if (format === 'csv') return end > start && !(end === start + 1 && bytes[start] === CR);
  for (let at = start; at < end; at++) {
    const byte = bytes[at] as number;
    // Beyond ASCII there are blanks too, and they are rare enough to be looked at as text.
    if (byte > 0x7f) return new TextDecoder().decode(bytes.subarray(start, end)).trim() !== '';
    if (byte !== SPACE && (byte < 0x09 || byte > CR)) return true;
  }
  return false;
}

/** A line break between quotes belongs to a cell; two quotes in a row change nothing. */
function cutQuoted(bytes: Uint8Array, isEnd: boolean, most: number): Cut {
  let [rows, lines, linesAtEnd, start, isQuoted] = [0, 0, 0, 0, false];
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at];
    if (byte === QUOTE) isQuoted = !isQuoted;
    else if (byte === LF) {
      lines += 1;
      if (isQuoted) continue;
      if (isRow(bytes, start, at, 'csv')) rows += 1;
      start = at + 1;
      linesAtEnd = lines;
      if (rows === most) break;
    }
  }
  if (rows < most && isEnd && start < bytes.length)
    return { end: bytes.length, rows: rows + (isRow(bytes, start, bytes.length, 'csv') ? 1 : 0), lines: lines + 1 };
  return { end: start, rows, lines: linesAtEnd };
}
