import type { Piece } from '../reading/piece.ts';
import type { Claimed } from './claimed.ts';
import type { Correction } from './entered.ts';

/** A piece that is to be judged. */
export interface Task {
  readonly piece: Piece;
  readonly rowsBefore: number;
  readonly as: 'json' | 'form';
  /** What its rows are told of the claims before them. */
  readonly settled?: readonly Claimed[];
  /** The same of a range among others, where they are told otherwise than by the range itself. */
  readonly corrections?: readonly Correction[];
  /** It is a part of a piece whose other parts are judged apart: what it claims is settled with theirs. */
  readonly isPart?: boolean;
  /** Where it is counted how many rows were begun, for whoever waits; below zero before anybody has taken it. */
  readonly begun?: Int32Array;
}
