import { Summary } from '../../screening/summary.ts';
import { anythingOf, type ClaimList, joinedClaims, mayHave } from '../claims/claim-list.ts';
import type { Judged } from './piece-judge.ts';
import { partsAround } from './split.ts';
import type { Task } from './task.ts';

/** Whoever judged a piece is gone; so many of its rows had been begun. */
export interface Lost {
  readonly begun: number;
}

/**
 * Judges a piece by attempts that may be lost: then in parts, and so on, until the row that ends whoever judges it is by itself. What comes of
 * it is the same as if all had been judged at once, but for that row; of it remains what it may claim, or that it may claim anything.
 *
 * @param lost what is told of a row that cannot be judged
 */
export async function judgedByAttempts(
  task: Task,
  attempt: (task: Task) => Promise<Judged | Lost>,
  lost: (task: Task, claims: ClaimList) => Judged,
): Promise<Judged> {
  const judged = await attempt(task);
  if (!('begun' in judged)) return judged;
  const pieces = partsAround(task.piece, judged.begun);
  if (pieces.length === 0) {
    const asked = await attempt({ ...task, onlyClaims: true });
    return lost(task, 'begun' in asked ? anythingOf(1) : mayHave(asked.claims));
  }
  const parts: Part[] = [];
  for (const piece of pieces) {
    const rowsBefore = piece.rowsBefore - task.piece.rowsBefore;
    const part = await judgedByAttempts({ ...task, piece, rowsBefore: task.rowsBefore + rowsBefore }, attempt, lost);
    parts.push({ judged: part, rowsBefore });
  }
  return joined(parts);
}

interface Part {
  readonly judged: Judged;
  readonly rowsBefore: number;
}

function joined(parts: readonly Part[]): Judged {
  const all = parts.map(({ judged }) => judged);
  const summary = new Summary();
  for (const { summed } of all) summary.take(summed);
  return {
    rows: all.reduce((sum, { rows }) => sum + rows, 0),
    summed: summary.summed,
    told: all.map(({ told }) => told).join(''),
    rejected: all.flatMap(({ rejected }) => rejected),
    accepted: all.map(({ accepted }) => accepted).join(''),
    notable: all.flatMap(({ notable }) => notable),
    claims: joinedClaims(parts.map(({ judged, rowsBefore }) => ({ list: judged.claims, rowsBefore }))),
  };
}
