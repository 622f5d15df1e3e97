import { resolve } from 'node:path';
import type { Readable } from 'node:stream';
import { planOf } from '../../../core/intake.ts';
import { mappingOf } from '../../audit/stored-rows.ts';
import type { LoadedIntake } from '../../basics/loading.ts';
import { Misuse } from '../../basics/misuse.ts';
import { hashOf } from '../../claims/claim-list.ts';
import type { OpenedDatabase } from '../../databases/sort.ts';
import { fieldsByColumn, strangersAmong } from '../../reading/columns.ts';
import type { Format } from '../../reading/data.ts';
import { isAddress } from '../../reading/http-in.ts';
import type { Piece } from '../../reading/piece.ts';
import { piecesOf } from '../../reading/pieces.ts';
import type { Range, Source } from '../folder/job.ts';
import { checkedBytes, OtherSource, sourceBytes } from './bytes.ts';
import { copiedSource, textStart } from './copied.ts';

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
