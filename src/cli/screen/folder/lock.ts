import { randomUUID } from 'node:crypto';
import {
  closeSync,
  existsSync,
  linkSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  rmdirSync,
  rmSync,
  statSync,
  utimesSync,
  writeSync,
} from 'node:fs';
import { hostname } from 'node:os';
import { dirname, join } from 'node:path';
import { Misuse } from '../../basics/misuse.ts';

/** Milliseconds between two signs of life, and without one after which nobody is taken to be there. */
const PULSE = 5000;
const MOST_SILENT = 60_000;

interface Holder {
  readonly id: string;
  readonly host: string;
  readonly pid: number;
}

/** What this process has. */
const ours = new Set<string>();

/** One coordinates a screening: whoever comes besides is refused, and who has died is followed at once where that is known. */
export class FolderLock {
  readonly #path: string;
  readonly #own: string;
  readonly #pulse: NodeJS.Timeout;
  #isLost = false;

  private constructor(path: string, own: string) {
    this.#path = path;
    this.#own = own;
    ours.add(own);
    this.#pulse = setInterval(() => this.#beat(), PULSE);
    this.#pulse.unref();
  }

  /** @throws Misuse where another has it */
  static take(folder: string): FolderLock {
    mkdirSync(folder, { recursive: true });
    const path = join(folder, 'lock');
    const own = JSON.stringify({ id: randomUUID(), host: hostname(), pid: process.pid } satisfies Holder);
    for (let tries = 0; tries < 20; tries++) {
      if (isMade(path, own)) return new FolderLock(path, own);
      const other = readOf(path);
      if (other === undefined) continue;
      if (!isDead(path, other)) throw inUse(folder, other);
      // It is taken away under another name, so that of two who do this one succeeds; were it another by now, it is put back.
      const aside = `${path}.${randomUUID()}`;
      try {
        renameSync(path, aside);
      } catch {
        continue;
      }
      if (readFileSync(aside, 'utf8') !== other && !existsSync(path)) linkSync(aside, path);
      rmSync(aside, { force: true });
    }
    throw new Misuse(`${folder} is being taken by several at once; try again.`);
  }

  /** Another has taken it over, since this one gave no sign of life for long. */
  get isLost(): boolean {
    return this.#isLost;
  }

  release(): void {
    clearInterval(this.#pulse);
    if (readOf(this.#path) === this.#own) rmSync(this.#path, { force: true });
    try {
      // Nothing has come of it.
      rmdirSync(dirname(this.#path));
    } catch {
      // Something has.
    }
  }

  #beat(): void {
    if (readOf(this.#path) !== this.#own) this.#isLost = true;
    else utimesSync(this.#path, new Date(), new Date());
  }
}

function isMade(path: string, own: string): boolean {
  try {
    const file = openSync(path, 'wx', 0o600);
    writeSync(file, own);
    closeSync(file);
    return true;
  } catch (cause) {
    const { code, message } = cause as NodeJS.ErrnoException;
    if (code === 'EEXIST') return false;
    throw new Misuse(`${path} cannot be written: ${message}.`);
  }
}

function readOf(path: string): string | undefined {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    return undefined;
  }
}

function isDead(path: string, text: string): boolean {
  try {
    if (Date.now() - statSync(path).mtimeMs > MOST_SILENT) return true;
    const { host, pid } = JSON.parse(text) as Holder;
    if (host !== hostname()) return false;
    // A process of this number was before this one, in a container for one.
    if (pid === process.pid) return !ours.has(text);
    process.kill(pid, 0);
    return false;
  } catch (cause) {
    // One that is gone; one that is just being written is nobody's that is dead.
    return (cause as NodeJS.ErrnoException).code === 'ESRCH';
  }
}

function inUse(folder: string, text: string): Misuse {
  let who = 'another process';
  try {
    const { host, pid } = JSON.parse(text) as Holder;
    who = `process ${pid} on ${host}`;
  } catch {
    // It is just being written.
  }
  return new Misuse(
    `${folder} is being worked on by ${who}; wait until it ends, or end that one (where it is dead already, a minute is enough).`,
  );
}
