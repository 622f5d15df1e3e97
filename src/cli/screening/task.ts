import type { Answers } from '../claims/settle.ts';
import type { Piece } from '../reading/piece.ts';

/** A piece that is to be judged. */
export interface Task {
  readonly piece: Piece;
  readonly rowsBefore: number;
  readonly as: 'json' | 'form';
  /** What its rows are told of all rows before; otherwise they are told of each other. */
  readonly answers?: Answers;
  /** Nothing of it is judged: it is asked what its rows may claim. */
  readonly onlyClaims?: boolean;
  /**
   * For whoever waits: how many rows were begun, below zero before somebody has taken it who is ready; and the number by which the system
   * knows who that is, or 0.
   */
  readonly begun?: Int32Array;
}
