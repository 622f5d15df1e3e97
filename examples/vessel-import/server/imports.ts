import { spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

// Each import is a folder with the list that came and what the screening makes of it. It runs in a process of its own: pages are served
// meanwhile, and what is done stays done when this server ends.

const JESTRIL = join(dirname(createRequire(import.meta.url).resolve('jestril/package.json')), 'bin/jestril.js');

export interface Places {
  /** The folder of all imports. */
  readonly folder: string;
  /** The module with the rules. */
  readonly rules: string;
  /** The SQLite file that has the vessels. */
  readonly database: string;
}

/** How far an import is. */
export type State =
  | { readonly is: 'running'; readonly judged: number; readonly rows: number | undefined }
  | { readonly is: 'stopped'; readonly why: string }
  | { readonly is: 'done'; readonly summary: Summary; readonly hasRejected: boolean };

export interface Summary {
  readonly counts: { readonly accepted: number; readonly rejected: number; readonly undecided: number; readonly unreadable: number };
  readonly found: readonly {
    readonly use: string;
    readonly count: number;
    readonly example: { readonly message: string; readonly origin: { readonly line?: number } };
  }[];
  readonly stored: { readonly rows: number; readonly refused: number };
}

export class Imports {
  readonly #places: Places;
  readonly #failed = new Map<string, string>();
  readonly #running = new Set<Promise<unknown>>();

  /** What was under way when the server ended goes on. */
  constructor(places: Places) {
    this.#places = places;
    mkdirSync(places.folder, { recursive: true });
    for (const id of readdirSync(places.folder))
      if (existsSync(this.#in(id, 'list.csv')) && !existsSync(this.#in(id, 'screened/summary.json'))) this.#screen(id);
  }

  /** Begins an import with a file, which it takes over. */
  begin(file: string): string {
    const id = randomUUID();
    mkdirSync(this.#in(id));
    renameSync(file, this.#in(id, 'list.csv'));
    this.#screen(id);
    return id;
  }

  has(id: string): boolean {
    return /^[0-9a-f-]{36}$/.test(id) && existsSync(this.#in(id, 'list.csv'));
  }

  state(id: string): State {
    const summary = this.#in(id, 'screened/summary.json');
    if (existsSync(summary))
      return { is: 'done', summary: JSON.parse(readFileSync(summary, 'utf8')) as Summary, hasRejected: this.#hasRejected(id) };
    const why = this.#failed.get(id);
    return why === undefined ? { is: 'running', ...this.#progress(id) } : { is: 'stopped', why };
  }

  /** The rows that were not accepted, with what was found beside them. */
  rejectedFile(id: string): string {
    return this.#in(id, 'to-mend.csv');
  }

  /** All that runs has ended. */
  async idle(): Promise<void> {
    await Promise.all(this.#running);
  }

  #screen(id: string): void {
    const { rules, database } = this.#places;
    const args = [
      'screen',
      'start',
      rules,
      this.#in(id, 'list.csv'),
      '--intake',
      'listed-vessel',
      '--to',
      this.#in(id, 'screened'),
      '--resume',
    ];
    const writes = ['--records', database, '--into', database, '--rejected', this.rejectedFile(id)];
    const child = spawn(process.execPath, [JESTRIL, ...args, ...writes], { stdio: ['ignore', 'ignore', 'pipe'] });
    let told = '';
    child.stderr.on('data', (text) => {
      told += text;
    });
    const ended = new Promise<void>((resolve) => {
      child.once('close', () => {
        // What it says last is why it stopped.
        if (!existsSync(this.#in(id, 'screened/summary.json'))) this.#failed.set(id, told.trim().split('\n').at(-1) ?? '');
        this.#running.delete(ended);
        resolve();
      });
    });
    this.#running.add(ended);
  }

  #progress(id: string): { readonly judged: number; readonly rows: number | undefined } {
    const log = this.#in(id, 'screened/log.ndjson');
    if (!existsSync(log)) return { judged: 0, rows: undefined };
    const lines = readFileSync(log, 'utf8').trim().split('\n');
    const events = lines.map((line) => JSON.parse(line) as { readonly event: string; readonly rows?: number; readonly turn?: string });
    const judged = events.filter(({ event, turn }) => event === 'range' && turn === 'r0').reduce((sum, { rows = 0 }) => sum + rows, 0);
    return { judged, rows: events[0]?.rows };
  }

  #hasRejected(id: string): boolean {
    const file = this.rejectedFile(id);
    // More than the names of the columns.
    return existsSync(file) && readFileSync(file, 'utf8').trimEnd().includes('\n') && statSync(file).size > 0;
  }

  #in(...names: readonly string[]): string {
    return join(this.#places.folder, ...names);
  }
}
