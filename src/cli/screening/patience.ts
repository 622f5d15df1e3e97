import { readFileSync, readlinkSync } from 'node:fs';

// Whether a row never ends is told by the processor time that its thread has spent on it, and never by the clock on the wall: on a machine
// that does other work, a thread may wait for long.

/** Milliseconds of a tick in which Linux counts processor time. */
const TICK = 10;
/** The part of the time between two looks that a thread must have worked to count as one that works. */
const LEAST = 0.02;

/** The number by which the system knows the thread that asks (Linux); 0 where it tells none. */
export function ownThread(): number {
  try {
    return Number(/\d+$/.exec(readlinkSync('/proc/thread-self'))?.[0] ?? 0);
  } catch {
    return 0;
  }
}

/**
 * Milliseconds of processor time that a thread of this process has spent so far. Where the system does not tell: what falls to it when all do
 * the same.
 */
function processorTime(thread: number, threads: number): number {
  try {
    // The name of the thread stands in brackets, and may hold anything (proc_pid_stat(5)).
    const fields = readFileSync(`/proc/self/task/${thread}/stat`, 'latin1').split(') ').at(-1)?.split(' ') ?? [];
    return (Number(fields[11]) + Number(fields[12])) * TICK;
  } catch {
    const { user, system } = process.cpuUsage();
    return (user + system) / 1000 / (threads + 1);
  }
}

/** Looks at one that judges, again and again. */
export class Patience {
  readonly #threads: number;
  readonly #most: number;
  readonly #mostIdle: number;
  #begun = -1;
  #thread = 0;
  #since = 0;
  #last = 0;
  #idle = 0;

  /**
   * @param threads how many judge side by side
   * @param most milliseconds of processor time that pass without another row being begun
   * @param mostIdle looks one behind the other at one that does nothing, not even that: it waits for what never comes
   */
  constructor(threads: number, most: number, mostIdle: number) {
    this.#threads = threads;
    this.#most = most;
    this.#mostIdle = mostIdle;
  }

  /**
   * @param begun rows that were begun; below zero while nobody is ready to
   * @param every milliseconds between two looks
   * @returns whether there is nothing more to be waited for
   */
  isOver(begun: number, thread: number, every: number): boolean {
    if (begun < 0) return false;
    const now = processorTime(thread, this.#threads);
    const hasWorked = now - this.#last > every * LEAST;
    this.#last = now;
    if (begun !== this.#begun || thread !== this.#thread) {
      [this.#begun, this.#thread, this.#since, this.#idle] = [begun, thread, now, 0];
      return false;
    }
    this.#idle = hasWorked ? 0 : this.#idle + 1;
    return now - this.#since > this.#most || this.#idle > this.#mostIdle;
  }
}
