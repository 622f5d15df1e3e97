import type { Pass } from './job.ts';

/** Who gives ranges to those who do them. */
export interface Queue {
  /** Offers ranges; one that is offered already stays so. */
  offer(pass: Pass, indexes: readonly number[]): Promise<void>;
  /** How many may be offered at a time, so that a list of a million ranges is not held twice. */
  readonly room: number;
  /** Told when a range failed for good, and why. */
  onFailed(failed: (pass: Pass, index: number, why: string) => void): void;
  /** Offers again whatever is not done, after the queue itself was lost. */
  readonly again: number;
  close(): Promise<void>;
}

/** Ranges that are done in this process, so many side by side. */
export class LocalQueue implements Queue {
  readonly room = 1000;
  readonly again = Number.POSITIVE_INFINITY;
  readonly #do: (pass: Pass, index: number) => Promise<void>;
  readonly #width: number;
  readonly #waiting: { readonly pass: Pass; readonly index: number }[] = [];
  readonly #known = new Set<string>();
  #failed: (pass: Pass, index: number, why: string) => void = () => undefined;
  #running = 0;
  #isClosed = false;
  #idle: (() => void) | undefined;

  constructor(width: number, work: (pass: Pass, index: number) => Promise<void>) {
    this.#width = width;
    this.#do = work;
  }

  async offer(pass: Pass, indexes: readonly number[]): Promise<void> {
    for (const index of indexes) {
      const name = `${pass} ${index}`;
      if (this.#known.has(name)) continue;
      this.#known.add(name);
      this.#waiting.push({ pass, index });
    }
    this.#next();
  }

  onFailed(failed: (pass: Pass, index: number, why: string) => void): void {
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
      const task = this.#waiting.shift();
      if (!task) return;
      this.#running += 1;
      this.#do(task.pass, task.index)
        .catch((cause: Error) => this.#failed(task.pass, task.index, cause.message))
        .finally(() => {
          this.#running -= 1;
          if (this.#running === 0) this.#idle?.();
          this.#next();
        });
    }
  }
}
