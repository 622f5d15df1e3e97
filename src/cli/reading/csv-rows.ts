// Rows of CSV (RFC 4180), found in text by whoever reads them and in bytes by whoever cuts a file: one grammar, told twice.
//
// A row begins at the beginning of a line. A cell that begins with a quote ends with the next quote that is not doubled, and behind that
// stands a delimiter or the end of the line. Where that is not so, or a quote stands in a cell that does not begin with one, the line in
// which the row begins is unreadable, and the next row begins with the next line. A row has so many bytes at most: a quote that is not
// closed by then is not closed.
//
// It is linear. Whoever is within a quoted cell at the end of a line, and fails far behind, has had an odd number of quotes there; whoever
// begins anew with a line in between has had an even one, and so ends with his line.
//
// Known parsers of CSV take a quote that is not closed for one cell up to the end of the file, or end with it, and need twice the time and
// more for a row; none tells the lines.

/** Bytes of a row with quotes at most. */
export const MOST_OF_ROW = 1_000_000;

const [LF, CR, QUOTE] = [0x0a, 0x0d, 0x22];

/** Takes the cells of each row and the line that it begins in, counted from 0; of a line that cannot be read its text in place of cells. */
export type TakeRow = (cells: readonly string[] | string, line: number) => void;

/**
 * Hands over the rows of a text in order; empty lines are none.
 *
 * @param isBytes each character stands for one byte
 */
export function splitRows(text: string, delimiter: string, take: TakeRow, isBytes = false): void {
  const splitter = delimiter.charCodeAt(0);
  const { length } = text;
  let line = 0;
  for (let start = 0; start < length; ) {
    const cells: string[] = [];
    const size = new RowSize(text, start, isBytes);
    let [at, from, lines, next, isSound] = [start, start, 1, length, true];
    for (;;) {
      let code = at < length ? text.charCodeAt(at) : LF;
      if (code === splitter) {
        cells.push(text.slice(from, at));
        from = ++at;
        continue;
      }
      if (code === LF) {
        cells.push(text.slice(from, at > from && text.charCodeAt(at - 1) === CR ? at - 1 : at));
        next = at + 1;
        break;
      }
      if (code !== QUOTE) {
        at += 1;
        continue;
      }
      isSound = at === from;
      if (!isSound) break;
      let value = '';
      from = ++at;
      for (;;) {
        const quote = text.indexOf('"', at);
        isSound = quote >= 0 && !size.isTooLargeAt(quote);
        if (!isSound) break;
        at = quote + 1;
        if (text.charCodeAt(at) !== QUOTE) {
          value += text.slice(from, quote);
          break;
        }
        value += text.slice(from, at);
        from = ++at;
      }
      if (!isSound) break;
      cells.push(value);
      for (let end = value.indexOf('\n'); end >= 0; end = value.indexOf('\n', end + 1)) lines += 1;
      code = at < length ? text.charCodeAt(at) : LF;
      if (code === splitter) {
        from = ++at;
        continue;
      }
      if (code === CR && (at + 1 >= length || text.charCodeAt(at + 1) === LF)) code = text.charCodeAt(++at) || LF;
      next = at + 1;
      isSound = code === LF;
      break;
    }
    if (isSound) {
      if (cells.length > 1 || cells[0] !== '' || text.charCodeAt(start) === QUOTE) take(cells, line);
    } else {
      const end = text.indexOf('\n', start);
      next = end < 0 ? length : end + 1;
      lines = 1;
      take(text.slice(start, end < 0 ? length : end).replace(/\r$/, ''), line);
    }
    line += lines;
    start = next;
  }
}

/** The bytes of a row up to its quotes. A character takes three at most, so that they are counted of long rows only, and once. */
class RowSize {
  readonly #text: string;
  readonly #start: number;
  readonly #isBytes: boolean;
  #counted: number;
  #bytes = 0;

  constructor(text: string, start: number, isBytes: boolean) {
    this.#text = text;
    this.#start = start;
    this.#counted = start;
    this.#isBytes = isBytes;
  }

  isTooLargeAt(at: number): boolean {
    const units = at - this.#start;
    if (this.#isBytes || units <= MOST_OF_ROW / 3) return units > MOST_OF_ROW;
    this.#bytes += Buffer.byteLength(this.#text.slice(this.#counted, Math.min(at, this.#start + MOST_OF_ROW + 1)));
    this.#counted = at;
    return units > MOST_OF_ROW || this.#bytes > MOST_OF_ROW;
  }
}

/** Where a row ends, and its lines. */
export interface RowEnd {
  /** Behind its line break; below zero where more has to be read to know. */
  next: number;
  lines: number;
}

const NOT_YET = -1;

/**
 * Finds the end of the row of some bytes that begins at a place.
 *
 * @param isEnd nothing comes behind
 * @param into takes what is found, so that nothing is made for each row
 */
export function endOfRow(bytes: Uint8Array, start: number, splitter: number, isEnd: boolean, into: RowEnd): void {
  const { length } = bytes;
  into.lines = 1;
  let lines = 1;
  let isBegin = true;
  for (let at = start; ; ) {
    if (at >= length) {
      into.next = isEnd ? length : NOT_YET;
      into.lines = lines;
      return;
    }
    const byte = bytes[at];
    if (byte === LF) {
      into.next = at + 1;
      into.lines = lines;
      return;
    }
    at += 1;
    if (byte !== QUOTE) {
      isBegin = byte === splitter;
      continue;
    }
    if (!isBegin) break;
    // Within quotes.
    let isClosed = false;
    for (; at < length && at - start <= MOST_OF_ROW; at++) {
      if (bytes[at] === LF) lines += 1;
      else if (bytes[at] === QUOTE) {
        if (bytes[at + 1] === QUOTE) at += 1;
        else {
          isClosed = true;
          break;
        }
      }
    }
    // What follows the quote may be another one.
    if (!isEnd && at - start <= MOST_OF_ROW && at + 2 >= length) {
      into.next = NOT_YET;
      return;
    }
    if (!isClosed) break;
    at += 1;
    isBegin = bytes[at] === splitter;
    if (at >= length || bytes[at] === LF) continue;
    if (isBegin) {
      at += 1;
      continue;
    }
    if (bytes[at] === CR && (at + 1 >= length || bytes[at + 1] === LF)) {
      at += 1;
      continue;
    }
    break;
  }
  const end = bytes.indexOf(LF, start);
  into.next = end < 0 ? (isEnd ? length : NOT_YET) : end + 1;
}
