import { closeSync, existsSync, fstatSync, mkdirSync, openSync, readSync, statSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import type { Readable } from 'node:stream';
import { planOf } from '../../core/intake.ts';
import { mappingOf } from '../audit/stored-rows.ts';
import type { LoadedIntake } from '../basics/loading.ts';
import { Misuse } from '../basics/misuse.ts';
import { OutFile } from '../basics/out-file.ts';
import { hashOf } from '../claims/claim-list.ts';
import type { OpenedDatabase } from '../databases/sort.ts';
import { fieldsByColumn, strangersAmong } from '../reading/columns.ts';
import type { Format } from '../reading/data.ts';
import { isAddress, titleOf } from '../reading/http-in.ts';
import type { Piece } from '../reading/piece.ts';
import { piecesOf } from '../reading/pieces.ts';
import { isCompressed, NotText, open as openSource, utf8In } from '../reading/text-in.ts';
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
  copyTo: (number: number) => string,
): Promise<{ readonly sources: readonly Source[]; readonly ranges: readonly Range[] }> {
  const sources: Source[] = [];
  const ranges: Range[] = [];
  const { pathOf, isField } = fieldsByColumn(intake);
  let rowsBefore = 0;
  for (const file of files) {
    const copied = await copiedSource(file, copyTo(sources.length));
    const { found, name } = copied;
    const start = textStart(copied.path);
    let open: Range | undefined;
    const close = (range: Range) => {
      const before = ranges.at(-1);
      const since = before?.source === range.source ? Number(before.to) : 0;
      const source = sources[range.source] as Source;
      ranges.push({ ...range, since, hash: hashOf(sourceBytes(source, since, Number(range.to))) });
    };
    const pieces = piecesOf(copied.path, undefined as unknown as Readable, {
      input: input ?? copied.format,
      pathOf,
      isField,
      delimiter,
      header: header?.split(',').map((name) => name.trim()),
      atOnce: Math.min(rangeBytes, 1_000_000),
      begun: ({ format, columns, delimiter: delimited }) => {
        const strangers = columns && strangersAmong(intake, name, columns.paths);
        if (strangers) warn(strangers);
        sources.push({
          name,
          path: isAddress(file) ? name : resolve(file),
          ...(found && { size: found.size, time: found.mtimeMs }),
          ...(copied.path !== file && { copy: resolve(copied.path) }),
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

interface Copied {
  /** As it is told: without a password. */
  readonly name: string;
  /** The file itself, or a copy of it as UTF-8. */
  readonly path: string;
  readonly found?: { readonly size: number; readonly mtimeMs: number };
  readonly format?: Format;
}

/** What cannot be cut by bytes where it is (what is compressed, UTF-16, or at an address) is copied, as UTF-8. */
async function copiedSource(file: string, copy: string): Promise<Copied> {
  const isRemote = isAddress(file);
  if (!isRemote && !existsSync(file)) throw new Misuse(`There is no file ${file}.`);
  const found = isRemote ? undefined : statSync(file);
  if (found && !found.isFile()) throw new Misuse(`${file} is no file; a screening reads files, which its machines share.`);
  if (found && !isOtherwise(file)) return { name: file, path: file, found };
  const { name, stream } = await openSource(file, undefined as unknown as Readable);
  mkdirSync(dirname(copy), { recursive: true });
  const out = new OutFile(copy, { mode: 0o600 });
  try {
    for await (const chunk of utf8In(stream)) await out.write(Buffer.from(chunk));
  } catch (cause) {
    await out.drop();
    throw cause instanceof NotText ? new Misuse(`${name} cannot be screened: it holds ${cause.message}.`) : cause;
  }
  await out.end();
  const named = FORMATS.find(([ending]) => ending.test(titleOf(name)))?.[1];
  return { name, path: copy, ...(found && { found }), ...(named && { format: named }) };
}

/** The copy has another name. */
const FORMATS: readonly (readonly [RegExp, Format])[] = [
  [/\.(ndjson|jsonl)$/i, 'ndjson'],
  [/\.(csv|tsv)$/i, 'csv'],
];

function isOtherwise(file: string): boolean {
  const head = headOf(file);
  return isCompressed(head) || (head[0] === 0xff && head[1] === 0xfe) || (head[0] === 0xfe && head[1] === 0xff);
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
  const bytes = sourceBytes(source, since, Number(to));
  if (hashOf(bytes) !== hash)
    throw new OtherSource(
      `${source.name} is not what it was when the screening began (rows ${rowsBefore + 1} to ${rowsBefore + rows} of all); begin another with the file as it is now.`,
    );
  return bytes.subarray(Number(from) - since);
}

/** Whether files are still what they were cut from: one that was touched since is read and compared. */
export function checkSources(sources: readonly Source[], ranges: readonly Range[]): void {
  for (const [number, source] of sources.entries()) {
    const { path, size, time, copy } = source;
    // What is judged of what is at an address is the copy.
    if (path === undefined || size === undefined) continue;
    if (!existsSync(path)) throw new OtherSource(`There is no file ${path} any more; the screening was begun with it.`);
    const found = statSync(path);
    if (found.size !== size) throw otherLength(source);
    if (found.mtimeMs === time) continue;
    if (copy !== undefined)
      throw new OtherSource(`${source.name} was changed since the screening began; begin another with the file as it is now.`);
    for (const range of ranges) if (range.source === number) checkedBytes(range, source);
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

/** Some bytes of a file. */
export function sourceBytes(source: Source, from: number, to: number): Buffer {
  const { path, copy, size } = source;
  const opened = openSync(copy ?? (path as string), 'r');
  try {
    if (copy === undefined && fstatSync(opened).size !== size) throw otherLength(source);
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

/** Behind the byte order mark of UTF-8. */
function textStart(file: string): number {
  const [first, second, third] = headOf(file);
  return first === 0xef && second === 0xbb && third === 0xbf ? 3 : 0;
}

function headOf(file: string): Uint8Array {
  const opened = openSync(file, 'r');
  try {
    const bytes = Buffer.alloc(3);
    readSync(opened, bytes, 0, 3, 0);
    return bytes;
  } finally {
    closeSync(opened);
  }
}
