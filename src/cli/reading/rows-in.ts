import { formObject } from '../../forms/form.ts';
import { withoutNotes } from './apart.ts';
import { type Columns, eachOfCsv } from './csv.ts';
import type { Datum, Origin } from './data.ts';
import { readJson } from './json.ts';
import { endOfEntry } from './json-entries.ts';
import { linesIn, type Piece } from './piece.ts';

const BROKEN = 'bytes that are not UTF-8';
/** An object: most lines are one, and need not be looked at to know that they hold something. */
const BRACE = 0x7b;

/** The data of a piece, in order; what is unreadable does not stop the rest. */
export function rowsIn(piece: Piece): Datum[] {
  const data: Datum[] = [];
  eachRow(piece, (datum) => data.push(datum));
  return data;
}

/** Hands over one datum after the other: nobody holds them all. */
export function eachRow(piece: Piece, take: (datum: Datum) => void): void {
  const { file, problem, format, bytes, columns, delimiter = ',', linesBefore } = piece;
  if (problem !== undefined) take({ origin: { file }, raw: undefined, unreadable: problem });
  else if (format === 'json') inJson(piece, take);
  else if (format === 'list') inList(piece, take);
  else if (format === 'csv') eachOfCsv(file, bytes, textOf(bytes), columns as Columns, delimiter, linesBefore, take);
  else inLines(piece, take);
}

function inJson({ file, bytes }: Piece, take: (datum: Datum) => void): void {
  take(datumOf({ file }, textOf(bytes), 'json'));
}

/** Entries that are all JSON are read together. */
function inList({ file, bytes, rows, rowsBefore, linesBefore }: Piece, take: (datum: Datum) => void): void {
  const text = textOf(bytes);
  const read = text === undefined ? undefined : readJson(`[${text.slice(0, -1)}]`);
  if (read && 'value' in read && (read.value as readonly unknown[]).length === rows && /[,\]]$/.test(text as string)) {
    for (const [index, raw] of (read.value as readonly unknown[]).entries())
      take({ origin: { file, entry: rowsBefore + index + 1 }, raw, submission: withoutNotes(raw) });
    return;
  }
  let [start, line, index] = [0, linesBefore, 0];
  for (; index < rows; index++) {
    const end = endOfEntry(bytes, start);
    const own = bytes.subarray(start, end < 0 ? bytes.length : end);
    const origin = { file, entry: rowsBefore + index + 1 };
    if (end < 0) take({ origin, raw: undefined, unreadable: 'not JSON: the list does not end' });
    else take(datumOf(origin, textOf(own), 'json', line));
    line += linesIn(own);
    start = end + 1;
  }
}

function inLines({ file, bytes, format, linesBefore }: Piece, take: (datum: Datum) => void): void {
  const text = textOf(bytes);
  if (text === undefined) return inBrokenLines(file, bytes, format, linesBefore, take);
  let line = linesBefore;
  for (let start = 0; start < text.length; ) {
    const at = text.indexOf('\n', start);
    const end = at < 0 ? text.length : at;
    line += 1;
    // A line break of two characters leaves the first of them, which is white space in either format.
    const own = text.slice(start, end);
    start = end + 1;
    if (own.charCodeAt(0) === BRACE || own.trim() !== '') take(datumOf({ file, line }, own, format));
  }
}

/** Some line is no text: the others are. */
function inBrokenLines(file: string, bytes: Uint8Array, format: Piece['format'], linesBefore: number, take: (datum: Datum) => void): void {
  let line = linesBefore;
  for (let start = 0; start < bytes.length; ) {
    const at = bytes.indexOf(0x0a, start);
    const end = at < 0 ? bytes.length : at;
    line += 1;
    const own = textOf(bytes.subarray(start, end));
    start = end + 1;
    if (own?.trim() !== '') take(datumOf({ file, line }, own, format));
  }
}

/** @param linesBefore of a text that may have several */
function datumOf(origin: Origin, text: string | undefined, format: Piece['format'], linesBefore?: number): Datum {
  if (text === undefined) return { origin, raw: undefined, unreadable: BROKEN };
  if (format === 'form') {
    const typed = text.trim();
    return { origin, raw: typed, submission: withoutNotes(formObject(new URLSearchParams(typed))) };
  }
  const read = readJson(text.endsWith('\r') ? text.slice(0, -1) : text, linesBefore);
  if ('problem' in read) return { origin, raw: text.trimEnd(), unreadable: `not JSON: ${read.problem}` };
  return { origin, raw: read.value, submission: withoutNotes(read.value) };
}

const decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

function textOf(bytes: Uint8Array): string | undefined {
  try {
    return decoder.decode(bytes);
  } catch {
    return undefined;
  }
}
