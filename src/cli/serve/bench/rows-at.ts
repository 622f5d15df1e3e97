import type { Readable } from 'node:stream';
import type { Row, RowPlace } from '../../../workbench/wire/imports.ts';
import type { LoadedIntake } from '../../basics/loading.ts';
import { fieldsByColumn } from '../../reading/columns.ts';
import type { Datum } from '../../reading/data.ts';
import type { Piece } from '../../reading/piece.ts';
import { piecesOf } from '../../reading/pieces.ts';
import { rowsIn } from '../../reading/rows-in.ts';

/**
 * Some rows of a file, found by where verdicts say that they stand; it is read once, as far as the last of them.
 *
 * @param wanted in the order of the file
 */
export async function rowsAt(intake: LoadedIntake, path: string, wanted: readonly RowPlace[]): Promise<readonly Row[]> {
  const found: Row[] = [];
  let before: Piece | undefined;
  /** Takes what is wanted of a piece, given where the next begins. */
  const take = (piece: Piece, linesBefore: number) => {
    const as = piece.format === 'csv' || piece.format === 'form' ? 'form' : 'json';
    let data: readonly Datum[] | undefined;
    for (let place = wanted[found.length]; place && isIn(place, piece, linesBefore); place = wanted[found.length]) {
      data ??= rowsIn(piece);
      const { line, entry } = place;
      const datum = data.find(({ origin }) => origin.line === line && origin.entry === entry);
      found.push(datum && 'submission' in datum ? { submission: datum.submission, as } : { problem: datum?.unreadable ?? GONE });
    }
  };
  for await (const piece of piecesOf(path, undefined as unknown as Readable, fieldsByColumn(intake))) {
    if (before) take(before, piece.linesBefore);
    before = piece;
    if (found.length === wanted.length) break;
  }
  if (before) take(before, Number.POSITIVE_INFINITY);
  return wanted.map((_, at) => found[at] ?? { problem: GONE });
}

const GONE = 'There is no row at its place any more.';

function isIn({ line, entry }: RowPlace, { rowsBefore, rows }: Piece, linesBefore: number): boolean {
  if (line !== undefined) return line <= linesBefore;
  return entry === undefined || entry <= rowsBefore + rows;
}
