import { closeSync, existsSync, fstatSync, openSync, readSync, statSync } from 'node:fs';
import { resolve } from 'node:path';
import type { Readable } from 'node:stream';
import { planOf } from '../../core/intake.ts';
import { mappingOf } from '../audit/stored-rows.ts';
import type { LoadedIntake } from '../basics/loading.ts';
import { Misuse } from '../basics/misuse.ts';
import { hashOf } from '../claims/claim-list.ts';
import type { OpenedDatabase } from '../databases/sort.ts';
import { fieldsByColumn, strangersAmong } from '../reading/columns.ts';
import type { Format } from '../reading/data.ts';
import type { Piece } from '../reading/piece.ts';
import { piecesOf } from '../reading/pieces.ts';
import type { Range, Source } from './job.ts';

/** Bytes of a range, and rows of one of a table: some seconds of work, so that little is done twice. */
const BYTES = 2_000_000;
const ROWS = 50_000;

/** How files are cut. */
export interface CutFlags {
  readonly input?: Format;
  readonly delimiter?: string;
  readonly header?: string;
  readonly rangeBytes?: number;
}

/** Cuts files into ranges of whole rows. */
export async function rangesOf(
  files: readonly string[],
  intake: LoadedIntake,
  { input, delimiter, header, rangeBytes = BYTES }: CutFlags,
  warn: (text: string) => void,
): Promise<{ readonly sources: readonly Source[]; readonly ranges: readonly Range[] }> {
  const sources: Source[] = [];
  const ranges: Range[] = [];
  const { pathOf, isField } = fieldsByColumn(intake);
  let rowsBefore = 0;
  for (const file of files) {
    if (!existsSync(file)) throw new Misuse(`There is no file ${file}.`);
    const found = statSync(file);
    if (!found.isFile()) throw new Misuse(`${file} is no file; a screening reads files, which its machines share.`);
    const start = textStart(file);
    let open: Range | undefined;
    const close = (range: Range) => {
      const before = ranges.at(-1);
      const since = before?.source === range.source ? Number(before.to) : 0;
      const source = sources[range.source] as Source;
      ranges.push({ ...range, since, hash: hashOf(bytesOf(source, since, Number(range.to))) });
    };
    const pieces = piecesOf(file, undefined as unknown as Readable, {
      input,
      pathOf,
      isField,
      delimiter,
      header: header?.split(',').map((name) => name.trim()),
      atOnce: Math.min(rangeBytes, 1_000_000),
      begun: ({ name, format, columns, delimiter: delimited }) => {
        const strangers = columns && strangersAmong(intake, name, columns.paths);
        if (strangers) warn(strangers);
        sources.push({
          name,
          path: resolve(file),
          size: found.size,
          time: found.mtimeMs,
          format,
          start,
          ...(columns && { columns }),
          ...(delimited !== undefined && { delimiter: delimited }),
        });
      },
    });
    for await (const piece of pieces) {
      if (piece.problem !== undefined) throw new Misuse(`${file} cannot be screened: ${piece.problem}.`);
      if (piece.format === 'json')
        throw new Misuse(`${file} is one JSON value, which cannot be cut; write one submission a line (NDJSON), or a list.`);
      // That a JSON text is a list, its first piece tells.
      sources.push({ ...(sources.pop() as Source), format: piece.format });
      const from = start + piece.from;
      const to = from + piece.bytes.length;
      if (open && to - Number(open.from) <= rangeBytes) open = { ...open, to, rows: open.rows + piece.rows };
      else {
        if (open) close(open);
        const before = { rowsBefore: rowsBefore + piece.rowsBefore, linesBefore: piece.linesBefore };
        open = { index: ranges.length, source: sources.length - 1, from, to, rows: piece.rows, ...before };
      }
    }
    if (open) {
      close(open);
      rowsBefore = open.rowsBefore + open.rows;
    }
  }
  return { sources, ranges };
}

/** Cuts a table into ranges by its key. */
export async function rangesOfTable(
  { db }: OpenedDatabase,
  table: string,
  key: string,
  rows = ROWS,
): Promise<{ readonly sources: readonly Source[]; readonly ranges: readonly Range[] }> {
  const ranges: Range[] = [];
  let from: number | string | null = null;
  let rowsBefore = 0;
  try {
    for (;;) {
      const begin: number | string | null = from;
      let query = db.selectFrom(table).select(key).orderBy(key).limit(rows);
      if (begin !== null) query = query.where(key, '>', begin);
      const inner = query.as('part');
      const { last, count } = (await db
        .selectFrom(inner)
        .select((eb) => [eb.fn.max(key).as('last'), eb.fn.countAll().as('count')])
        .executeTakeFirstOrThrow()) as { readonly last: number | string | null; readonly count: number | string };
      if (Number(count) === 0) break;
      const to: number | string | null = last;
      ranges.push({ index: ranges.length, source: 0, from: begin, to, rows: Number(count), rowsBefore, linesBefore: rowsBefore });
      rowsBefore += Number(count);
      from = to;
    }
  } catch (cause) {
    throw new Misuse(`The table ${table} cannot be read: ${(cause as Error).message}.`);
  }
  return { sources: [{ name: table, format: 'table', key }], ranges };
}

/**
 * The rows of a range, as a piece.
 *
 * @throws OtherSource where they are not those that the range was cut from
 */
export async function pieceOf(range: Range, source: Source, intake: LoadedIntake, database?: OpenedDatabase): Promise<Piece> {
  const { name, format, columns, delimiter } = source;
  const { from, rows, linesBefore } = range;
  if (format === 'table') return tablePiece(range, source, intake, database as OpenedDatabase);
  return {
    file: name,
    format,
    from: Number(from),
    bytes: checkedBytes(range, source),
    rows,
    rowsBefore: range.rowsBefore,
    linesBefore,
    ...(columns && { columns }),
    ...(delimiter !== undefined && { delimiter }),
  };
}

/** Rows that are not those that a screening was begun with: what was judged of them would be of two files. */
export class OtherSource extends Misuse {}

function checkedBytes({ since = 0, from, to, hash, rows, rowsBefore }: Range, source: Source): Uint8Array {
  const bytes = bytesOf(source, since, Number(to));
  if (hashOf(bytes) !== hash)
    throw new OtherSource(
      `${source.name} is not what it was when the screening began (rows ${rowsBefore + 1} to ${rowsBefore + rows} of all); begin another with the file as it is now.`,
    );
  return bytes.subarray(Number(from) - since);
}

/** Whether files are still what they were cut from: one that was touched since is read and compared. */
export function checkSources(sources: readonly Source[], ranges: readonly Range[]): void {
  for (const [number, source] of sources.entries()) {
    const { path, size, time } = source;
    if (path === undefined) continue;
    if (!existsSync(path)) throw new OtherSource(`There is no file ${path} any more; the screening was begun with it.`);
    const found = statSync(path);
    if (found.size !== size) throw otherLength(source);
    if (found.mtimeMs !== time) for (const range of ranges) if (range.source === number) checkedBytes(range, source);
  }
}

function otherLength({ name }: Source): OtherSource {
  return new OtherSource(`${name} is not as long as when the screening began; begin another with the file as it is now.`);
}

/** The rows of a table as NDJSON: whoever judges needs no database to read them. */
async function tablePiece(
  { from, to, rows, rowsBefore }: Range,
  { name, key = 'id' }: Source,
  intake: LoadedIntake,
  { db }: OpenedDatabase,
): Promise<Piece> {
  let query = db.selectFrom(name).selectAll().orderBy(key).where(key, '<=', to);
  if (from !== null) query = query.where(key, '>', from);
  const stored = (await query.execute()) as readonly { readonly [column: string]: unknown }[];
  if (stored.length !== rows)
    throw new OtherSource(
      `The table ${name} has other rows than when the screening began (${stored.length} where ${rows} were); begin another, while nobody writes to it.`,
    );
  const mapping = mappingOf(planOf(intake), Object.keys(stored[0] ?? {}));
  const text = stored.map((row) => `${JSON.stringify(mapping.read(row))}\n`).join('');
  return { file: name, format: 'ndjson', from: 0, bytes: Buffer.from(text), rows: stored.length, rowsBefore, linesBefore: rowsBefore };
}

function bytesOf(source: Source, from: number, to: number): Buffer {
  const opened = openSync(source.path as string, 'r');
  try {
    if (fstatSync(opened).size !== source.size) throw otherLength(source);
    const bytes = Buffer.alloc(to - from);
    for (let at = 0; at < bytes.length; ) {
      const read = readSync(opened, bytes, at, bytes.length - at, from + at);
      if (read === 0) throw otherLength(source);
      at += read;
    }
    return bytes;
  } finally {
    closeSync(opened);
  }
}

/** Behind the byte order mark of UTF-8; other encodings cannot be cut by bytes. */
function textStart(file: string): number {
  const opened = openSync(file, 'r');
  try {
    const bytes = Buffer.alloc(3);
    readSync(opened, bytes, 0, 3, 0);
    const [first, second, third] = bytes;
    if ((first === 0xff && second === 0xfe) || (first === 0xfe && second === 0xff))
      throw new Misuse(`${file} is UTF-16, which cannot be cut into ranges; turn it into UTF-8 first (iconv -f utf-16 -t utf-8).`);
    return first === 0xef && second === 0xbb && third === 0xbf ? 3 : 0;
  } finally {
    closeSync(opened);
  }
}
