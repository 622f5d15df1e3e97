import { cut, type Piece } from '../reading/piece.ts';

/** A piece in two: so many rows of it, and the others; `undefined` where one of them would have none. */
export function splitAt(piece: Piece, rows: number): readonly [Piece, Piece] | undefined {
  const { bytes, format } = piece;
  if (rows < 1 || rows >= piece.rows || format === 'json' || piece.problem !== undefined) return undefined;
  const found = cut(bytes, piece, false, rows);
  if (found.rows !== rows) return undefined;
  const rest = {
    from: piece.from + found.end,
    rows: piece.rows - rows,
    rowsBefore: piece.rowsBefore + rows,
    linesBefore: piece.linesBefore + found.lines,
  };
  return [
    { ...piece, bytes: bytes.subarray(0, found.end), rows },
    { ...piece, bytes: bytes.subarray(found.end), ...rest },
  ];
}

/**
 * The parts of a piece after whoever judged it was lost.
 *
 * @param begun rows that had been begun: the last of them is the one to suspect, and is put by itself
 */
export function partsAround(piece: Piece, begun: number): readonly Piece[] {
  const halves = splitAt(piece, piece.rows >> 1);
  if (begun < 1 || begun > piece.rows || !halves) return halves ?? [];
  const [before, rest] = splitAt(piece, begun - 1) ?? [undefined, piece];
  const [suspect, after] = splitAt(rest, 1) ?? [rest, undefined];
  const parts = [before, suspect, after].filter((part) => part !== undefined);
  return parts.length > 1 ? parts : halves;
}
