import type { Why } from '../basics/verdict.ts';

/** Milliseconds that a timer can hold (WHATWG HTML: a 32-bit signed number). */
const LONGEST = 2 ** 31 - 1;

/** A signal that ends at a time limit, or with the caller's own signal. */
export class TimeLimit {
  readonly #controller = new AbortController();
  readonly #timer: ReturnType<typeof setTimeout> | undefined;
  readonly #outer: AbortSignal | undefined;
  #why: Why | undefined;
  readonly #stop = () => this.#end('aborted', this.#outer?.reason);

  constructor(milliseconds: number, outer: AbortSignal | undefined) {
    this.#outer = outer;
    const end = () => this.#end('timed-out', new Error(`No answer within ${milliseconds} ms.`));
    // What is more than a timer can hold, such as Infinity, would end at once.
    this.#timer = milliseconds <= LONGEST ? setTimeout(end, milliseconds) : undefined;
    if (outer?.aborted) this.#stop();
    else outer?.addEventListener('abort', this.#stop, { once: true });
  }

  get signal(): AbortSignal {
    return this.#controller.signal;
  }

  /** Why it ended; `undefined` while it has not. */
  get why(): Why | undefined {
    return this.#why;
  }

  /** The promise's answer, or a rejection as soon as the limit is reached. */
  race<T>(promise: Promise<T>): Promise<T> {
    return raced(promise, this.signal);
  }

  end(): void {
    if (this.#timer) clearTimeout(this.#timer);
    this.#outer?.removeEventListener('abort', this.#stop);
  }

  #end(why: Why, reason: unknown): void {
    this.#why ??= why;
    this.#controller.abort(reason);
  }
}

/** The promise's answer, or a rejection as soon as the signal is given. */
export function raced<T>(promise: Promise<T>, signal: AbortSignal | undefined): Promise<T> {
  if (!signal) return promise;
  return new Promise((resolve, reject) => {
    const stop = () => reject(signal.reason);
    if (signal.aborted) stop();
    signal.addEventListener('abort', stop, { once: true });
    promise.then(resolve, reject).finally(() => signal.removeEventListener('abort', stop));
  });
}
