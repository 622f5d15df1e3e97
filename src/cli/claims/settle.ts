import type { ClaimBook, Keeps, Tells } from './claim-book.ts';
import { type ClaimList, claimAt, countOf, emptyClaim, firstOf, isAnything, type Listed, SORT } from './claim-list.ts';
import type { Print } from './fingerprint.ts';

// Rows of one piece that are judged apart know only of claims among themselves. Here what they asked is held against what all rows before have
// claimed, in the order of the rows, wherever they were judged.

/** What the rows of a piece are told of all rows before. */
export interface Answers {
  /** Rows before the piece. */
  readonly rowsBefore: number;
  /** What they asked: who asks otherwise than this is undecided. */
  readonly list: ClaimList;
  /** By claim the row that has it, counted through all rows; below zero, one that may have it; 0 where nobody does. */
  readonly holders: Float64Array;
}

const KEEPS = { [SORT.asks]: 'none', [SORT.takes]: 'free', [SORT.shares]: 'all' } as const;

/**
 * Settles what the rows of a piece claim; pieces come in their order.
 *
 * @param rowsBefore rows before the piece
 * @returns what they are to be told, where that is not what they were told of each other
 */
export function settle(list: ClaimList, rowsBefore: number, book: ClaimBook): Answers | undefined {
  const count = countOf(list);
  const holders = new Float64Array(count);
  const claim = emptyClaim();
  let [isOther, span] = [false, 0];
  for (let at = 0; at < count; at++) {
    claimAt(list, at, claim);
    const row = rowsBefore + claim.row;
    const interval = list.spans[span]?.[0] === at ? list.spans[span++]?.[1] : undefined;
    if (claim.sort === SORT.may) {
      book.mayHave(row, isAnything(claim) ? undefined : claim);
      continue;
    }
    const holder = book.tell(row, claim, KEEPS[claim.sort], interval);
    if (holder !== undefined) holders[at] = book.isUndecided(holder) ? -holder : holder;
    if (holder !== (claim.told === undefined ? undefined : rowsBefore + claim.told)) isOther = true;
  }
  return isOther ? { rowsBefore, list, holders } : undefined;
}

/** Tells the rows of a piece what was settled of what they ask. */
export class Settled implements Tells {
  readonly #answers: Answers;
  readonly #spans: ReadonlyMap<number, unknown>;
  readonly #claim = emptyClaim();
  readonly #undecided = new Set<number>();
  #row = -1;
  #at = 0;

  constructor(answers: Answers) {
    this.#answers = answers;
    this.#spans = new Map(answers.list.spans);
  }

  isUndecided(row: number): boolean {
    return this.#undecided.has(row);
  }

  tell(row: number, print: Print, keeps: Keeps, interval?: unknown): number | undefined {
    const { list, holders, rowsBefore } = this.#answers;
    if (row !== this.#row) this.#at = firstOf(list, row - rowsBefore);
    this.#row = row;
    const at = this.#at++;
    // What it asks otherwise than before was settled by nobody.
    if (at >= holders.length || !this.#isAsked(at, row - rowsBefore, print, keeps, interval)) return this.#undecidedBy(row);
    const holder = holders[at] as number;
    return holder < 0 ? this.#undecidedBy(-holder) : holder || undefined;
  }

  #undecidedBy(row: number): number {
    this.#undecided.add(row);
    return row;
  }

  #isAsked(at: number, row: number, { a, b, c }: Print, keeps: Keeps, interval: unknown): boolean {
    const claim: Listed = this.#claim;
    claimAt(this.#answers.list, at, this.#claim);
    return (
      claim.row === row &&
      claim.sort !== SORT.may &&
      KEEPS[claim.sort] === keeps &&
      claim.a === a &&
      claim.b === b &&
      claim.c === c &&
      JSON.stringify(this.#spans.get(at)) === JSON.stringify(interval)
    );
  }
}
