import { formObject } from '../../forms/form.ts';
import { withoutNotes } from './apart.ts';
import { type Columns, csvIn } from './csv.ts';
import type { Datum, Origin } from './data.ts';
import { type ReadJson, readJson } from './json.ts';
import type { Piece } from './piece.ts';

const BROKEN = 'bytes that are not UTF-8';

/** The data of a piece, in order; what is unreadable does not stop the rest. */
export function* rowsIn(piece: Piece): Generator<Datum> {
  const { file, problem, format } = piece;
  if (problem !== undefined) yield { origin: { file }, raw: undefined, unreadable: problem };
  else if (format === 'json') yield* inJson(piece);
  else if (format === 'csv') yield* inCsv(piece);
  else yield* inLines(piece);
}

/** A JSON text is read as a whole to count its rows; what it held is kept for its reader. */
const whole = new WeakMap<Uint8Array, ReadJson>();

/** The rows of one JSON text: the entries of a list, or one. */
export function countInJson(bytes: Uint8Array): number {
  const read = readWhole(bytes);
  whole.set(bytes, read);
  return 'value' in read && Array.isArray(read.value) ? read.value.length : 1;
}

function readWhole(bytes: Uint8Array): ReadJson {
  const text = textOf(bytes);
  return text === undefined ? { problem: 'it holds bytes that are not UTF-8' } : readJson(text);
}

function* inJson({ file, bytes }: Piece): Generator<Datum> {
  const read = whole.get(bytes) ?? readWhole(bytes);
  if ('problem' in read) yield { origin: { file }, raw: undefined, unreadable: `not JSON: ${read.problem}` };
  else if (!Array.isArray(read.value)) yield { origin: { file }, raw: read.value, submission: withoutNotes(read.value) };
  else
    for (const [index, value] of read.value.entries())
      yield { origin: { file, entry: index + 1 }, raw: value, submission: withoutNotes(value) };
}

function* inCsv({ file, bytes, columns, delimiter, linesBefore }: Piece): Generator<Datum> {
  const sound = textOf(bytes);
  const text = sound ?? new TextDecoder().decode(bytes);
  for (const datum of csvIn(file, text, columns as Columns, delimiter, linesBefore)) {
    // In place of each byte that is none, the decoder has put this character.
    const isBroken = sound === undefined && Array.isArray(datum.raw) && datum.raw.some((cell) => String(cell).includes('\ufffd'));
    yield isBroken ? { origin: datum.origin, raw: datum.raw, unreadable: BROKEN } : datum;
  }
}

function* inLines({ file, bytes, format, linesBefore }: Piece): Generator<Datum> {
  const text = textOf(bytes);
  if (text === undefined) {
    yield* inBrokenLines(file, bytes, format, linesBefore);
    return;
  }
  let line = linesBefore;
  for (let start = 0; start < text.length; ) {
    const at = text.indexOf('\n', start);
    const end = at < 0 ? text.length : at;
    line += 1;
    // A line break of two characters leaves the first of them, which is white space in either format.
    const own = text.slice(start, end);
    start = end + 1;
    if (own !== '' && own.trim() !== '') yield datumOf({ file, line }, own, format);
  }
}

/** Some line is no text: the others are. */
function* inBrokenLines(file: string, bytes: Uint8Array, format: Piece['format'], linesBefore: number): Generator<Datum> {
  let line = linesBefore;
  for (let start = 0; start < bytes.length; ) {
    const at = bytes.indexOf(0x0a, start);
    const end = at < 0 ? bytes.length : at;
    line += 1;
    const own = textOf(bytes.subarray(start, end));
    start = end + 1;
    if (own === undefined) yield { origin: { file, line }, raw: undefined, unreadable: BROKEN };
    else if (own.trim() !== '') yield datumOf({ file, line }, own, format);
  }
}

function datumOf(origin: Origin, text: string, format: Piece['format']): Datum {
  if (format === 'form') {
    const typed = text.trim();
    return { origin, raw: typed, submission: withoutNotes(formObject(new URLSearchParams(typed))) };
  }
  const read = readJson(text.endsWith('\r') ? text.slice(0, -1) : text);
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
