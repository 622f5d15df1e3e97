import type { Readable } from 'node:stream';
import { Late } from './problem.ts';

/** A file as it comes, before its bytes. */
export interface IncomingFile {
  /** The name of the form's field. */
  readonly field: string;
  /** A base name, never a path. */
  readonly name: string;
  /** As the sender says. */
  readonly mediaType: string;
}

/** Where files go that are not to be held in memory. */
export interface FileStore {
  /** Takes the bytes of a file; what it gives is the `content` of the upload. It has to reject when the stream fails. */
  keep(file: IncomingFile, bytes: Readable): Promise<unknown>;
  /** Lets go of what was kept: nobody needs it. */
  discard(content: unknown): Promise<void> | void;
  /**
   * What was kept stands in an accepted value, and goes to the application: a store that takes away what a process has left behind when it
   * was killed leaves it alone from now on. It may be discarded all the same.
   */
  handOver?(content: unknown): Promise<void> | void;
}

/**
 * The files of one request: those that an accepted value holds stay when the answer is good, and all others go, whatever has happened.
 */
export class Keeping {
  readonly #store: FileStore;
  readonly #kept = new Set<unknown>();
  readonly #handed = new Set<unknown>();
  #isOver = false;

  constructor(store: FileStore) {
    this.#store = store;
  }

  /** Ends with `signal`, whatever the store does; what it gives later goes again. */
  async keep(file: IncomingFile, bytes: Readable, signal: AbortSignal): Promise<unknown> {
    const store = async () => this.#store.keep(file, bytes);
    const keeping = store().then((content) => {
      this.#kept.add(content);
      if (this.#isOver) void this.#discard([content]);
      return content;
    });
    keeping.catch(() => undefined);
    return Promise.race([keeping, aborted(signal)]);
  }

  /** Those that stand in the value are the application's from now on. */
  async handOver(value: unknown): Promise<void> {
    if (this.#kept.size === 0) return;
    const held = heldIn(value);
    const handed = [...this.#kept].filter((content) => held.has(content) && !this.#handed.has(content));
    for (const content of handed) this.#handed.add(content);
    await Promise.all(handed.map(async (content) => this.#store.handOver?.(content)));
  }

  /** The request is over: what was handed over stays where it may be in use. */
  async end(isUsed: boolean): Promise<void> {
    this.#isOver = true;
    if (this.#kept.size > 0) await this.#discard([...this.#kept].filter((content) => !(isUsed && this.#handed.has(content))));
    this.#kept.clear();
  }

  /** Nothing that goes wrong here may hide what went wrong before. */
  async #discard(contents: readonly unknown[]): Promise<void> {
    await Promise.allSettled(contents.map(async (content) => this.#store.discard(content)));
  }
}

function aborted(signal: AbortSignal): Promise<never> {
  return new Promise((_, reject) => {
    const late = () => reject(new Late());
    if (signal.aborted) late();
    signal.addEventListener('abort', late, { once: true });
  });
}

/** Everything that stands in a value: what was kept is known again wherever an application's own kind has put it. */
function heldIn(value: unknown): ReadonlySet<unknown> {
  const held = new Set<unknown>();
  const waiting = [value];
  while (waiting.length > 0) {
    const next = waiting.pop();
    if (held.has(next)) continue;
    held.add(next);
    if (typeof next !== 'object' || next === null || ArrayBuffer.isView(next)) continue;
    const inside = next instanceof Map || next instanceof Set ? next.values() : Object.values(next);
    for (const each of inside) waiting.push(each);
  }
  return held;
}
