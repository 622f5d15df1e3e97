import type { Readable } from 'node:stream';
import { Misuse } from '../basics/misuse.ts';
import { type Columns, type CsvForm, columnsIn, delimiterIn, delimiterOf, firstLineOf, headerIn, type PathOf } from './csv.ts';
import type { Format } from './data.ts';
import { formatOf } from './format-of.ts';
import { startOfList } from './json-entries.ts';
import { type Cut, cut, type Form, isRow, type Piece } from './piece.ts';
import { NotText, open, utf8In } from './text-in.ts';

/** How data is read. */
export interface ReadingOptions extends CsvForm {
  /** Defaults to what the name of a file says, else to what it holds. */
  readonly input?: Format | undefined;
  readonly pathOf: PathOf;
  /** Whether a word is the path or label of a field. */
  readonly isField: (word: string) => boolean;
  /** Bytes of a file that are read at a time, and so about the size of its pieces. Defaults to half a million. */
  readonly atOnce?: number;
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

/** Bytes looked at to tell what a file holds. */
const LOOKED_AT = 1_000_000;
/** Bytes of one row at most: it is held as a whole. */
const MOST_BYTES = 400_000_000;

/**
 * Cuts a file, a pipe or standard input into pieces of whole rows, about as large as they come: a JSON text is one row, or a list whose
 * entries are; NDJSON and URL-encoded text have a row a line; rows of CSV (RFC 4180) may hold line breaks.
 */
export async function* piecesOf(path: string, stdin: Readable, options: ReadingOptions): AsyncGenerator<Piece> {
  const { name, stream } = await open(path, stdin, options.atOnce);
  const chunks = utf8In(stream, options.read);
  const head = await headOf(chunks, options);
  const start = new TextDecoder().decode(head.bytes.subarray(0, LOOKED_AT));
  if (start.trim() === '' && !head.problem)
    throw new Misuse(
      name === path ? `${name} is empty; it holds no submission.` : 'Nothing came on standard input; pipe a submission into the command.',
    );
  const format = options.input ?? formatOf(path, start, options);
  const delimiter = format === 'csv' ? (delimiterOf(options.delimiter) ?? delimiterIn(firstLineOf(start))) : undefined;
  if (format !== 'csv') options.begun?.({ name, format });
  const cutter = new Cutter(name, format, delimiter, options);
  try {
    if (head.problem) throw head.problem;
    yield* cutter.take(head.bytes);
    for await (const chunk of chunks) yield* cutter.take(chunk);
    yield* cutter.end();
  } catch (cause) {
    if (!(cause instanceof NotText)) throw cause;
    yield* cutter.broken(cause.message);
  }
}

/** The beginning of a file, as far as it takes to tell what it is. */
async function headOf(chunks: AsyncGenerator<Uint8Array>, { input }: ReadingOptions) {
  let bytes: Uint8Array = new Uint8Array();
  let problem: NotText | undefined;
  try {
    while (bytes.length < LOOKED_AT) {
      const { value, done } = await chunks.next();
      if (done) break;
      bytes = joined(bytes, value);
      const text = new TextDecoder().decode(bytes).trimStart();
      // What the format is shows in the first line that is not blank.
      if (text !== '' && ((input !== undefined && input !== 'csv') || text.includes('\n'))) break;
    }
  } catch (cause) {
    if (!(cause instanceof NotText)) throw cause;
    problem = cause;
  }
  return { bytes, problem };
}

class Cutter {
  readonly #file: string;
  #format: Format;
  readonly #delimiter: string | undefined;
  readonly #options: ReadingOptions;
  #columns: Columns | undefined;
  #rest: Uint8Array = new Uint8Array();
  #at = 0;
  #rows = 0;
  #lines = 0;
  /** Of a list: its end was read. */
  #isOver = false;

  constructor(file: string, format: Format, delimiter: string | undefined, options: ReadingOptions) {
    this.#file = file;
    this.#format = format;
    this.#delimiter = delimiter;
    this.#options = options;
    if (format === 'csv' && options.header) this.#setColumns(columnsIn(options.header, options.pathOf));
  }

  *take(chunk: Uint8Array): Generator<Piece> {
    this.#rest = joined(this.#rest, chunk);
    this.#beginList();
    if (this.#rest.length > MOST_BYTES)
      throw new Misuse(
        this.#format === 'json'
          ? `${this.#file} is too large for one JSON value; write one submission a line (NDJSON), or a list.`
          : `${this.#file}: a row is longer than ${MOST_BYTES / 1e6} MB; is a quote missing, or is this another format?`,
      );
    // One JSON value has no end but that of the file.
    if (this.#format !== 'json') yield* this.#cut(false);
  }

  *end(): Generator<Piece> {
    yield* this.#cut(true);
    if (this.#format === 'csv' && !this.#columns)
      throw new Misuse(`${this.#file} is empty; a CSV file begins with the names of its columns.`);
  }

  *broken(problem: string): Generator<Piece> {
    yield { ...this.#piece(this.#rest.subarray(0, 0), 1), problem };
  }

  /** A JSON text that is a list is read entry by entry. */
  #beginList(): void {
    const start = this.#format === 'json' && this.#at === 0 ? startOfList(this.#rest) : -1;
    if (start < 0) return;
    this.#format = 'list';
    this.#lines = cut(this.#rest.subarray(0, start), { format: 'ndjson', rowsBefore: 0 }, false).lines;
    this.#rest = this.#rest.subarray(start);
    this.#at = start;
  }

  *#cut(isEnd: boolean): Generator<Piece> {
    if (this.#format === 'csv' && !this.#columns && !this.#takeHeader(isEnd)) return;
    const bytes = this.#rest;
    if (bytes.length === 0) return;
    if (this.#isOver) {
      // What stands behind a list is no entry of it.
      if (isEnd && isRow(bytes, 0, bytes.length, 'list')) yield* this.broken('not JSON: something stands behind the list');
      return;
    }
    const found: Cut = this.#format === 'json' ? { end: bytes.length, rows: 1, lines: 1 } : cut(bytes, this.#form, isEnd);
    if (found.end === 0) return;
    this.#rest = bytes.subarray(found.end);
    if (found.rows > 0) yield this.#piece(bytes.subarray(0, found.end), found.rows);
    this.#at += found.end;
    this.#rows += found.rows;
    this.#lines += found.lines;
    this.#isOver = found.isLast === true;
    if (this.#isOver && isEnd) yield* this.#cut(isEnd);
  }

  /** The first row that is not empty names the columns. */
  #takeHeader(isEnd: boolean): boolean {
    const bytes = this.#rest;
    for (let at = bytes.indexOf(0x0a); ; at = bytes.indexOf(0x0a, at + 1)) {
      const end = at < 0 ? bytes.length : at + 1;
      if (at < 0 && !isEnd) return false;
      const found = cut(bytes.subarray(0, end), this.#form, at < 0);
      if (found.rows > 0 || at < 0) {
        const text = new TextDecoder().decode(bytes.subarray(0, found.end));
        if (text.trim() === '') return false;
        const names = headerIn(text, this.#delimiter ?? ',');
        if (!names)
          throw new Misuse(
            `${this.#file}: the names of the columns cannot be read; a quote stands in them that has no end, or no beginning.`,
          );
        this.#setColumns(columnsIn(names, this.#options.pathOf));
        this.#rest = bytes.subarray(found.end);
        this.#at += found.end;
        this.#lines += found.lines;
        return true;
      }
    }
  }

  #setColumns(columns: Columns): void {
    this.#columns = columns;
    const delimiter = this.#delimiter;
    this.#options.begun?.({ name: this.#file, format: 'csv', columns, ...(delimiter !== undefined && { delimiter }) });
  }

  get #form(): Form {
    return { format: this.#format, rowsBefore: this.#rows, ...(this.#delimiter !== undefined && { delimiter: this.#delimiter }) };
  }

  #piece(bytes: Uint8Array, rows: number): Piece {
    return {
      file: this.#file,
      ...this.#form,
      from: this.#at,
      bytes,
      rows,
      linesBefore: this.#lines,
      ...(this.#columns && { columns: this.#columns }),
    };
  }
}

function joined(one: Uint8Array, other: Uint8Array): Uint8Array {
  if (one.length === 0) return other;
  return other.length === 0 ? one : Buffer.concat([one, other]);
}
