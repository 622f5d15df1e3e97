import type { Readable } from 'node:stream';
import { Misuse } from '../basics/misuse.ts';
import { type Columns, type CsvForm, columnsIn, delimiterIn, delimiterOf, firstLineOf, headerIn, type PathOf } from './csv.ts';
import type { Format } from './data.ts';
import { formatOf } from './format-of.ts';
import { type Cut, cut, type Piece } from './piece.ts';
import { countInJson } from './rows-in.ts';
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
/** Bytes of one row at most, and of a JSON text, since it is held as a whole. */
const MOST_BYTES = 400_000_000;

/**
 * Cuts a file, a pipe or standard input into pieces of whole rows, about as large as they come: JSON is one piece; NDJSON and URL-encoded
 * text have a row a line; rows of CSV (RFC 4180) may hold line breaks.
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
  readonly #format: Format;
  readonly #delimiter: string | undefined;
  readonly #options: ReadingOptions;
  #columns: Columns | undefined;
  #rest: Uint8Array = new Uint8Array();
  #at = 0;
  #rows = 0;
  #lines = 0;

  constructor(file: string, format: Format, delimiter: string | undefined, options: ReadingOptions) {
    this.#file = file;
    this.#format = format;
    this.#delimiter = delimiter;
    this.#options = options;
    if (format === 'csv' && options.header) this.#setColumns(columnsIn(options.header, options.pathOf));
  }

  *take(chunk: Uint8Array): Generator<Piece> {
    this.#rest = joined(this.#rest, chunk);
    if (this.#rest.length > MOST_BYTES)
      throw new Misuse(
        this.#format === 'json'
          ? `${this.#file} is too large for one JSON text; write one submission a line (NDJSON).`
          : `${this.#file}: a row is longer than ${MOST_BYTES / 1e6} MB; is a quote missing, or is this another format?`,
      );
    // One JSON text has no end but that of the file.
    if (this.#format !== 'json') yield* this.#cut(false);
  }

  *end(): Generator<Piece> {
    yield* this.#cut(true);
    if (this.#format === 'csv' && !this.#columns)
      throw new Misuse(`${this.#file} is empty; a CSV file begins with the names of its columns.`);
  }

  *broken(problem: string): Generator<Piece> {
    yield { ...this.#piece(this.#rest.subarray(0, 0), { end: 0, rows: 1, lines: 0 }), problem };
  }

  *#cut(isEnd: boolean): Generator<Piece> {
    if (this.#format === 'csv' && !this.#columns && !this.#takeHeader(isEnd)) return;
    const bytes = this.#rest;
    if (bytes.length === 0) return;
    const found = this.#format === 'json' ? { end: bytes.length, rows: countInJson(bytes), lines: 1 } : cut(bytes, this.#format, isEnd);
    if (found.end === 0) return;
    this.#rest = bytes.subarray(found.end);
    if (found.rows > 0) yield this.#piece(this.#format === 'json' ? bytes : bytes.subarray(0, found.end), found);
    this.#at += found.end;
    this.#rows += found.rows;
    this.#lines += found.lines;
  }

  /** The first row that is not empty names the columns. */
  #takeHeader(isEnd: boolean): boolean {
    const bytes = this.#rest;
    for (let at = bytes.indexOf(0x0a); ; at = bytes.indexOf(0x0a, at + 1)) {
      const end = at < 0 ? bytes.length : at + 1;
      if (at < 0 && !isEnd) return false;
      const found = cut(bytes.subarray(0, end), 'csv', at < 0);
      if (found.rows > 0 || at < 0) {
        const text = new TextDecoder().decode(bytes.subarray(0, found.end));
        if (text.trim() === '') return false;
        this.#setColumns(columnsIn(headerIn(text, this.#delimiter), this.#options.pathOf));
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

  #piece(bytes: Uint8Array, { rows }: Cut): Piece {
    return {
      file: this.#file,
      format: this.#format,
      from: this.#at,
      bytes,
      rows,
      rowsBefore: this.#rows,
      linesBefore: this.#lines,
      ...(this.#columns && { columns: this.#columns }),
      ...(this.#delimiter !== undefined && { delimiter: this.#delimiter }),
    };
  }
}

function joined(one: Uint8Array, other: Uint8Array): Uint8Array {
  if (one.length === 0) return other;
  return other.length === 0 ? one : Buffer.concat([one, other]);
}
