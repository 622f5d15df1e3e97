import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Summed } from '../../../screening/summary.ts';
import { Misuse } from '../../basics/misuse.ts';
import { writeWhole } from '../../basics/whole-file.ts';
import { claimBytes, claimsFrom, hashOf } from '../../claims/claim-list.ts';
import type { Seed } from '../../claims/fingerprint.ts';
import type { Answers } from '../../claims/settle.ts';
import type { Columns } from '../../reading/csv.ts';
import type { Format } from '../../reading/data.ts';
import type { Judged } from '../../screening/piece-judge.ts';

// A screening as a folder on storage that all its machines share. What is there is done, and what is not is done again: files are written
// beside, and stand there whole or not at all.

/** What is screened, and how; the same for all machines. */
export interface Manifest {
  readonly layout: 2;
  readonly id: string;
  readonly intake: string;
  /** Of the rules: a machine with others must not judge. */
  readonly version: string;
  /** Of the fingerprints of what rows claim. */
  readonly seed: Seed;
  readonly sources: readonly Source[];
  readonly as: 'json' | 'form';
  readonly locale: string;
  readonly now: string;
  readonly occasion?: string;
  readonly report?: 'everything' | 'firstOfEach' | 'firstOfAll';
  readonly given?: string;
  /** What is written of its rows besides: files by their paths, and the table that takes what is accepted. */
  readonly writes: { readonly rejected?: string; readonly accepted?: string; readonly into?: string };
  /** Whether its rows claim something of each other. */
  readonly claims: boolean;
  readonly rows: number;
  readonly ranges: number;
}

/** A file of rows, or a table. */
export interface Source {
  /** As it was named. */
  readonly name: string;
  /** Where it is; of a file how long it was, and when it was changed last, in milliseconds. */
  readonly path?: string;
  readonly size?: number;
  readonly time?: number;
  /** What was made of it to be read by bytes, where it cannot be. */
  readonly copy?: string;
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
  /** Of a file: of its bytes, and of those before it that belong to no range, from this one on. */
  readonly hash?: string;
  readonly since?: number;
  readonly rows: number;
  /** Of all sources. */
  readonly rowsBefore: number;
  readonly linesBefore: number;
}

/**
 * A range, and one of the times that it is judged. It is judged by itself, and again when it is asked for (`r0`, `r1`, …); and where its rows
 * claim what those of other ranges do, with what they are told of that, which is part of the name (`s…`): told otherwise, it is another turn.
 */
export interface Turn {
  readonly index: number;
  readonly turn: string;
}

/** What has come of a turn. */
export interface Outcome extends Turn {
  readonly rows: number;
  readonly summed: Summed;
  /** Milliseconds that judging took. */
  readonly took: number;
  /** What the files are called that belong to it: two that do the same turn never write into each other's. */
  readonly files: string;
  /** The version of what its rows claim. */
  readonly claims: string;
}

/**
 * Files of an outcome: the verdicts of all rows, of those that are more than accepted, and what they claim; where that is wanted the values
 * that were accepted, with the numbers of their rows, and the rows that were not, as they came.
 */
export type Part = 'rows.ndjson' | 'notable.ndjson' | 'claims' | 'accepted.ndjson' | 'rejected.json';

/** Of a file that its owner alone may read. */
export const OWN = 0o600;

export class JobFolder {
  readonly path: string;
  /** A screening writes into a folder of its own: who comes late writes into none that came behind. */
  #work: string | undefined;

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
    if (read.layout !== 2)
      throw new Misuse(`${this.path} was written by another version of Jestril, and cannot be gone on with by this one.`);
    this.#work = workOf(read.id);
    return read;
  }

  /** The manifest is the last that is written of a new job: without it there is none. */
  create(manifest: Manifest, ranges: readonly Range[]): void {
    this.#work = workOf(manifest.id);
    for (const folder of ['done', 'parts', 'answers']) mkdirSync(join(this.path, this.#work, folder), { recursive: true });
    this.put('ranges.ndjson', ranges.map((range) => `${JSON.stringify(range)}\n`).join(''));
    this.put('job.json', `${JSON.stringify(manifest, null, 2)}\n`);
  }

  ranges(): readonly Range[] {
    const text = this.read('ranges.ndjson').trim();
    return text === '' ? [] : text.split('\n').map((line) => JSON.parse(line) as Range);
  }

  /** Whether what was only needed on the way is still there. */
  get isOpen(): boolean {
    return existsSync(this.#in('done'));
  }

  /** The turns that are done, by range. */
  done(): ReadonlyMap<number, ReadonlySet<string>> {
    const done = new Map<number, Set<string>>();
    for (const name of this.isOpen ? readdirSync(this.#in('done')) : []) {
      const [, index, turn] = /^(\d+)\.(\w+)\.json$/.exec(name) ?? [];
      if (index === undefined || turn === undefined) continue;
      const turns = done.get(Number(index)) ?? new Set();
      done.set(Number(index), turns.add(turn));
    }
    return done;
  }

  /** What was done stands there once its outcome does, which is written last. */
  finish(done: Omit<Outcome, 'files' | 'claims'>, { told, notable, claims, accepted, rejected }: Omit<Judged, 'rows' | 'summed'>): void {
    const files = `${nameOf(done)}-${process.pid}-${Math.random().toString(36).slice(2)}`;
    const bytes = claimBytes(claims);
    const write = (part: Part, text: string | Uint8Array, mode?: number) => writeWhole(this.#in('parts', `${files}.${part}`), [text], mode);
    write('rows.ndjson', told);
    write('notable.ndjson', notable.join(''));
    write('claims', bytes);
    // Whole rows may hold what is secret: they are their owner's alone.
    if (accepted !== '') write('accepted.ndjson', accepted, OWN);
    if (rejected.length > 0) write('rejected.json', JSON.stringify(rejected), OWN);
    const outcome: Outcome = { ...done, files, claims: hashOf(bytes) };
    this.#write(join('done', `${nameOf(done)}.json`), JSON.stringify(outcome));
  }

  outcome(turn: Turn): Outcome {
    return JSON.parse(this.#read(join('done', `${nameOf(turn)}.json`)).toString()) as Outcome;
  }

  partOf({ files }: Outcome, part: Part): string {
    return this.#in('parts', `${files}.${part}`);
  }

  /** Keeps what the rows of a range are told; gives the turn that is judged with it. */
  putAnswers(range: Range, { list, holders }: Answers, { turn: before }: Outcome): Turn {
    const [claims, told] = [claimBytes(list), new Uint8Array(holders.buffer)];
    const turn: Turn = { index: range.index, turn: `s${hashOf(before, claims, told)}` };
    const path = join('answers', nameOf(turn));
    if (!existsSync(this.#in(path))) this.#write(path, new Uint8Array(Uint32Array.of(claims.length).buffer), claims, told);
    return turn;
  }

  /** What the rows of a range are told in a turn; nothing of other ranges where it is judged by itself. */
  answersFor(turn: Turn, { rowsBefore }: Range): Answers | undefined {
    if (!turn.turn.startsWith('s')) return undefined;
    const bytes = this.#read(join('answers', nameOf(turn)));
    const length = bytes.readUInt32LE();
    const told = bytes.subarray(4 + length);
    return { rowsBefore, list: claimsFrom(bytes.subarray(4, 4 + length)), holders: new Float64Array(Uint8Array.from(told).buffer) };
  }

  /** How far it is, for who only watches. */
  putProgress(progress: object): void {
    this.#write('progress.json', JSON.stringify(progress));
  }

  progress(): unknown {
    return existsSync(this.#in('progress.json')) ? JSON.parse(this.#read('progress.json').toString()) : undefined;
  }

  /** A file of the folder, whole. */
  put(name: string, text: string, mode?: number): void {
    writeWhole(join(this.path, name), [text], mode);
  }

  has(name: string): boolean {
    return existsSync(join(this.path, name));
  }

  read(name: string): string {
    return readFileSync(join(this.path, name), 'utf8');
  }

  remove(name: string): void {
    rmSync(join(this.path, name), { force: true });
  }

  /** Where a copy of a source is kept that cannot be read by bytes as it is. */
  copyOf(number: number): string {
    return join(this.path, 'sources', String(number));
  }

  /** Takes away what was only needed on the way. */
  tidy(): void {
    rmSync(join(this.path, 'sources'), { recursive: true, force: true });
    rmSync(this.#in(), { recursive: true, force: true });
  }

  #in(...names: readonly string[]): string {
    return join(this.path, this.#work as string, ...names);
  }

  #read(name: string): Buffer {
    return readFileSync(this.#in(name));
  }

  #write(name: string, ...parts: readonly (string | Uint8Array)[]): void {
    writeWhole(this.#in(name), parts);
  }
}

function workOf(id: string): string {
  return `work-${id}`;
}

function nameOf({ index, turn }: Turn): string {
  return `${String(index).padStart(7, '0')}.${turn}`;
}
