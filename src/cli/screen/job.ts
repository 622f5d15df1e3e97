import { createHash } from 'node:crypto';
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readdirSync, readFileSync, renameSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import type { Summed } from '../../screening/summary.ts';
import { Misuse } from '../basics/misuse.ts';
import type { Columns } from '../reading/csv.ts';
import type { Format } from '../reading/data.ts';
import type { Judged } from '../screening/piece-judge.ts';

// A screening as a folder on storage that all its machines share. What is there is done, and what is not is done again: files are written
// beside, and stand there whole or not at all.

/** What is screened, and how; the same for all machines. */
export interface Manifest {
  readonly layout: 1;
  readonly id: string;
  readonly intake: string;
  /** Of the rules: a machine with others must not judge. */
  readonly version: string;
  readonly sources: readonly Source[];
  readonly as: 'json' | 'form';
  readonly locale: string;
  readonly now: string;
  readonly occasion?: string;
  readonly report?: 'everything' | 'firstOfEach' | 'firstOfAll';
  readonly given?: string;
  /** Whether its rows claim something of each other. */
  readonly claims: boolean;
  readonly rows: number;
  readonly ranges: number;
}

/** A file of rows, or a table. */
export interface Source {
  /** As it was named. */
  readonly name: string;
  /** Where it is, of a file, and how long it was. */
  readonly path?: string;
  readonly size?: number;
  readonly format: Format | 'table';
  /** Where its text begins: behind a byte order mark. */
  readonly start?: number;
  readonly columns?: Columns;
  readonly delimiter?: string;
  /** Of a table: its columns, and that of its key. */
  readonly key?: string;
}

/** A part of a source that is judged by itself. */
export interface Range {
  readonly index: number;
  /** The source, by its number. */
  readonly source: number;
  /** Bytes of the source's text; of a table the keys, behind the first and up to the last. */
  readonly from: number | string | null;
  readonly to: number | string | null;
  readonly rows: number;
  /** Of all sources. */
  readonly rowsBefore: number;
  readonly linesBefore: number;
}

/** What has come of a range. */
export interface Outcome {
  readonly index: number;
  readonly rows: number;
  readonly summed: Summed;
  /** Milliseconds that judging took. */
  readonly took: number;
}

/** The two times that a range may be judged: by itself, and once more where its rows claim what those of other ranges do. */
export type Pass = 'alone' | 'settled';

export class JobFolder {
  readonly path: string;

  constructor(path: string) {
    this.path = path;
  }

  get isThere(): boolean {
    return existsSync(join(this.path, 'job.json'));
  }

  /** @throws Misuse where there is no job */
  manifest(): Manifest {
    if (!this.isThere)
      throw new Misuse(`${this.path} holds no screening; begin one with: jestril screen start <module> <data…> --to ${this.path}`);
    const read = JSON.parse(readFileSync(join(this.path, 'job.json'), 'utf8')) as Manifest;
    if (read.layout !== 1)
      throw new Misuse(`${this.path} was written by another version of Jestril, and cannot be gone on with by this one.`);
    return read;
  }

  /** The manifest is the last that is written of a new job: without it there is none. */
  create(manifest: Manifest, ranges: readonly Range[]): void {
    for (const folder of ['', 'alone', 'settled']) mkdirSync(join(this.path, folder), { recursive: true });
    this.#write('ranges.ndjson', ranges.map((range) => `${JSON.stringify(range)}\n`).join(''));
    this.#write('job.json', `${JSON.stringify(manifest, null, 2)}\n`);
  }

  ranges(): readonly Range[] {
    const text = readFileSync(join(this.path, 'ranges.ndjson'), 'utf8').trim();
    return text === '' ? [] : text.split('\n').map((line) => JSON.parse(line) as Range);
  }

  /** The ranges that are through a pass. */
  done(pass: Pass): ReadonlySet<number> {
    const names = readdirSync(join(this.path, pass)).filter((name) => /^\d+\.json$/.test(name));
    return new Set(names.map((name) => Number(name.replace('.json', ''))));
  }

  /**
   * What was done of a range stands there once its outcome does, which is written last. Each pass has files of its own: a worker that was
   * given up, and ends late after all, writes over nothing that came behind.
   */
  finish(pass: Pass, outcome: Outcome, { told, notable }: Pick<Judged, 'told' | 'notable'>): void {
    const name = nameOf(outcome.index);
    this.#write(join(pass, `${name}.rows.ndjson`), told);
    this.#write(join(pass, `${name}.notable.ndjson`), notable.join(''));
    this.#write(join(pass, `${name}.json`), JSON.stringify(outcome));
  }

  outcome(index: number): Outcome {
    return JSON.parse(this.read(join(this.#lastPass(index), `${nameOf(index)}.json`))) as Outcome;
  }

  /** The file with the verdicts of a range, of all its rows or of those that are more than accepted. */
  rowsFile(index: number, of: 'rows' | 'notable'): string {
    return join(this.path, this.#lastPass(index), `${nameOf(index)}.${of}.ndjson`);
  }

  #lastPass(index: number): Pass {
    return this.has(join('settled', `${nameOf(index)}.json`)) ? 'settled' : 'alone';
  }

  /** A file of the folder, whole. */
  put(name: string, text: string): void {
    this.#write(name, text);
  }

  has(name: string): boolean {
    return existsSync(join(this.path, name));
  }

  read(name: string): string {
    return readFileSync(join(this.path, name), 'utf8');
  }

  /** Takes away what was only needed on the way. */
  tidy(): void {
    for (const folder of ['alone', 'settled', 'claims.db', 'claims.db-wal', 'claims.db-shm', 'ranges.ndjson', 'corrections.ndjson'])
      rmSync(join(this.path, folder), { recursive: true, force: true });
  }

  #write(name: string, text: string): void {
    const path = join(this.path, name);
    const beside = `${path}.${process.pid}-${Math.random().toString(36).slice(2)}`;
    try {
      const file = openSync(beside, 'w');
      try {
        writeAll(file, text);
        fsyncSync(file);
      } finally {
        closeSync(file);
      }
      renameSync(beside, path);
    } catch (cause) {
      rmSync(beside, { force: true });
      const { code, message } = cause as NodeJS.ErrnoException;
      throw new Misuse(code === 'ENOSPC' ? `There is no room left in ${this.path}; make some.` : `${path} cannot be written: ${message}.`);
    }
  }
}

function writeAll(file: number, text: string): void {
  const bytes = Buffer.from(text);
  for (let at = 0; at < bytes.length; ) at += writeSync(file, bytes, at);
}

function nameOf(index: number): string {
  return String(index).padStart(7, '0');
}

/** A name for a job, made of what it is about. */
export function idOf(parts: readonly string[]): string {
  return createHash('sha256').update(JSON.stringify(parts)).digest('hex').slice(0, 16);
}
