import { createWriteStream, type WriteStream } from 'node:fs';
import { stringify } from 'csv-stringify/sync';
import type { Verdict } from '../../core/basics/verdict.ts';
import { Misuse } from '../basics/misuse.ts';
import { FINDINGS, KEPT_APART, ROW } from '../reading/apart.ts';
import type { Columns } from '../reading/csv.ts';
import { type Datum, type Format, placeOf } from '../reading/data.ts';

/**
 * Writes what was not accepted in the form in which it came, with what was found beside it, so that a person mends it and sends that file
 * again. What is written beside is left out when it is read.
 */
export class RejectedRows {
  readonly #path: string;
  #stream: WriteStream | undefined;
  #format: Format | undefined;
  #columns: Columns | undefined;
  #delimiter = ',';
  #count = 0;

  constructor(path: string) {
    this.#path = path;
  }

  /** Told of each file before its first row. */
  begin(format: Format, columns: Columns | undefined, delimiter: string | undefined): void {
    if (this.#format !== undefined && this.#format !== format)
      throw new Misuse(`--rejected writes one format, and the data come as ${this.#format} and ${format}; check them one after the other.`);
    this.#format = format;
    if (!columns) return;
    const header = withoutApart(columns, columns.header);
    if (this.#columns && withoutApart(this.#columns, this.#columns.header).join('\n') !== header.join('\n'))
      throw new Misuse('--rejected writes one header, and the files have several; check them one after the other.');
    if (!this.#columns) {
      this.#delimiter = delimiter ?? ',';
      this.#write(this.#row([...header, ROW, FINDINGS]));
    }
    this.#columns = columns;
  }

  add(datum: Datum, verdict: Verdict<unknown> | undefined): void {
    const findings = verdict ? toldOf(verdict) : [datum.unreadable ?? ''];
    const row = placeOf(datum.origin);
    const { raw } = datum;
    if (this.#format === 'csv') {
      const cells = this.#columns ? withoutApart(this.#columns, raw as readonly string[]) : (raw as readonly string[]);
      const width = this.#columns ? withoutApart(this.#columns, this.#columns.header).length : cells.length;
      this.#write(this.#row([...cells, ...new Array<string>(Math.max(0, width - cells.length)).fill(''), row, findings.join(' ')]));
    } else if (this.#format === 'form') {
      const entries = [...new URLSearchParams(String(raw).trim())].filter(([name]) => !KEPT_APART.has(name));
      this.#write(`${new URLSearchParams([...entries, [ROW, row], ...findings.map((finding) => [FINDINGS, finding])])}\n`);
    } else if (typeof raw === 'object' && raw !== null && !Array.isArray(raw)) {
      const text = JSON.stringify({ ...raw, [ROW]: row, [FINDINGS]: findings });
      this.#write(this.#format === 'json' ? `${this.#count++ === 0 ? '[\n' : ',\n'}${text}` : `${text}\n`);
    }
    // What is no object, or no JSON, has nothing to write beside; the report has told it.
  }

  async end(): Promise<void> {
    if (this.#format === 'json') this.#write(this.#count === 0 ? '[]\n' : '\n]\n');
    const stream = this.#open();
    await new Promise<void>((resolve, reject) => {
      stream.once('error', reject);
      stream.end(resolve);
    });
  }

  #row(cells: readonly string[]): string {
    return stringify([cells as string[]], { delimiter: this.#delimiter });
  }

  #write(text: string): void {
    this.#open().write(text);
  }

  // The rows may hold what is secret: the file is its owner's alone.
  #open(): WriteStream {
    this.#stream ??= createWriteStream(this.#path, { mode: 0o600 }).on('error', (cause) => {
      throw new Misuse(`${this.#path} cannot be written: ${cause.message}.`);
    });
    return this.#stream;
  }
}

function withoutApart({ paths }: Columns, cells: readonly string[]): readonly string[] {
  return cells.filter((_, at) => at >= paths.length || paths[at] !== undefined);
}

function toldOf(verdict: Verdict<unknown>): string[] {
  if (verdict.outcome === 'rejected') return verdict.findings.map(({ message }) => message);
  return verdict.unsettled.map(({ use, why }) => `Not decided: ${use} (${why}).`);
}
