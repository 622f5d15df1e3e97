import { Ledger } from '../../core/asking/ledger.ts';
import { Summary } from '../../screening/summary.ts';
import { type Claimed, settled } from './claimed.ts';
import { corrected } from './entered.ts';
import type { Judged } from './piece-judge.ts';
import { partsAround } from './split.ts';
import type { Task } from './task.ts';

/** Whoever judged a piece is gone; so many of its rows had been begun. */
export interface Lost {
  readonly begun: number;
}

/**
 * Judges a piece by attempts that may be lost: then in parts, and so on, until the row that ends whoever judges it is by itself. What comes of
 * it is the same as if all had been judged at once, but for that row.
 *
 * @param lost what is told of a row that cannot be judged
 */
export async function judgedByAttempts(
  task: Task,
  attempt: (task: Task) => Promise<Judged | Lost>,
  lost: (task: Task) => Judged,
): Promise<Judged> {
  const judged = await attempt(task);
  if (!('begun' in judged)) return judged;
  const pieces = partsAround(task.piece, judged.begun);
  if (pieces.length === 0) return lost(task);
  const { corrections, ...plain } = task;
  const parts = pieces.map(
    (piece): Task => ({ ...plain, piece, rowsBefore: task.rowsBefore + piece.rowsBefore - task.piece.rowsBefore, isPart: true }),
  );
  const judge = (part: Task) => judgedByAttempts(part, attempt, lost);
  const all: Judged[] = [];
  const known = new Ledger<number>();
  for (const part of parts) {
    const alone = await judge(part);
    const answers = task.settled ? undefined : settled(alone.claims, known);
    all.push(answers ? { ...(await judge({ ...part, settled: answers })), claims: answers } : alone);
  }
  if (corrections) {
    const told = corrected(claimsOf(all), corrections);
    for (const [at, part] of parts.entries()) all[at] = await judge({ ...part, settled: told });
  }
  return joined(all);
}

function claimsOf(parts: readonly Judged[]): readonly Claimed[] {
  return parts.flatMap(({ claims }) => claims);
}

function joined(parts: readonly Judged[]): Judged {
  const summary = new Summary();
  for (const { summed } of parts) summary.take(summed);
  return {
    rows: parts.reduce((sum, { rows }) => sum + rows, 0),
    summed: summary.summed,
    told: parts.map(({ told }) => told).join(''),
    rejected: parts.flatMap(({ rejected }) => rejected),
    notable: parts.flatMap(({ notable }) => notable),
    claims: claimsOf(parts),
  };
}
