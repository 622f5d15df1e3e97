import { appendFileSync } from 'node:fs';
import { join } from 'node:path';
import type { JobFolder, Manifest } from './job.ts';

/** What happens to a screening, one JSON object a line: for whoever watches many of them, and asks afterwards. */
export class JobLog {
  readonly #path: string;
  readonly #run: string;

  constructor(folder: JobFolder, { id }: Manifest) {
    this.#path = join(folder.path, 'log.ndjson');
    this.#run = id;
  }

  /** @param event what has happened, in one word */
  write(event: string, more: { readonly [name: string]: unknown } = {}): void {
    try {
      appendFileSync(this.#path, `${JSON.stringify({ at: new Date().toISOString(), run: this.#run, event, ...more })}\n`);
    } catch {
      // What cannot be told is no reason to stop.
    }
  }
}
