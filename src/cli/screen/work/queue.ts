import { Misuse } from '../../basics/misuse.ts';
import type { Turn } from '../folder/job.ts';

/** Who gives ranges to those who do them. */
export interface Queue {
  /** Offers turns; one that is offered already stays so. */
  offer(turns: readonly Turn[]): Promise<void>;
  /** How many may be offered at a time, so that a list of a million ranges is not held twice. */
  readonly room: number;
  /** Told when a turn failed for good, and why. */
  onFailed(failed: (turn: Turn, why: string) => void): void;
  /** Offers again whatever is not done, after the queue itself was lost. */
  readonly again: number;
  close(): Promise<void>;
}

/** Milliseconds before a turn that has failed is tried again, one pause behind the other: a database may be away. */
const PAUSES = [500, 1000, 2000, 4000];

/** Ranges that are done in this process, so many side by side. */
export class LocalQueue implements Queue {
  readonly room = 1000;
  readonly again = Number.POSITIVE_INFINITY;
  readonly #do: (turn: Turn) => Promise<void>;
  readonly #width: number;
  readonly #waiting: Turn[] = [];
  readonly #known = new Set<string>();
  #failed: (turn: Turn, why: string) => void = () => undefined;
  #running = 0;
  #isClosed = false;
  #idle: (() => void) | undefined;

  constructor(width: number, work: (turn: Turn) => Promise<void>) {
    this.#width = width;
    this.#do = work;
  }

  async offer(turns: readonly Turn[]): Promise<void> {
    for (const turn of turns) {
      const name = `${turn.turn} ${turn.index}`;
      if (this.#known.has(name)) continue;
      this.#known.add(name);
      this.#waiting.push(turn);
    }
    this.#next();
  }

  onFailed(failed: (turn: Turn, why: string) => void): void {
    this.#failed = failed;
  }

  /** Those that are begun are done; the others are not begun. */
  async close(): Promise<void> {
    this.#isClosed = true;
    if (this.#running > 0)
      await new Promise<void>((resolve) => {
        this.#idle = resolve;
      });
  }

  #next(): void {
    while (!this.#isClosed && this.#running < this.#width) {
      const turn = this.#waiting.shift();
      if (!turn) return;
      this.#running += 1;
      this.#tried(turn)
        .catch((cause: Error) => this.#failed(turn, cause.message))
        .finally(() => {
          this.#running -= 1;
          if (this.#running === 0) this.#idle?.();
          this.#next();
        });
    }
  }

  async #tried(turn: Turn): Promise<void> {
    for (const pause of PAUSES) {
      try {
        return await this.#do(turn);
      } catch (cause) {
        // What a person has to put right is told at once.
        if (cause instanceof Misuse || this.#isClosed) throw cause;
        await new Promise((resolve) => setTimeout(resolve, pause));
      }
    }
    return this.#do(turn);
  }
}
