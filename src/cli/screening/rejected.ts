import { stringify } from 'csv-stringify/sync';
import type { Verdict } from '../../core/basics/verdict.ts';
import { Misuse } from '../basics/misuse.ts';
import { OutFile } from '../basics/out-file.ts';
import { FINDINGS, KEPT_APART, ROW } from '../reading/apart.ts';
import type { Columns } from '../reading/csv.ts';
import { type Datum, type Format, placeOf } from '../reading/data.ts';

/** How rows come, and are written again. */
export interface RowForm {
  readonly format: Format;
  readonly columns?: Columns;
  readonly delimiter?: string;
}

/**
 * A row that was not accepted, in the form in which it came, with what was found beside it, so that a person mends it and sends it again.
 * What is written beside is left out when it is read. What is no object, or no JSON, has nothing to write beside: the report tells it.
 */
export function rejectedText(
  { format, columns, delimiter = ',' }: RowForm,
  datum: Datum,
  verdict: Verdict<unknown> | undefined,
): string | undefined {
  const findings = verdict ? toldOf(verdict) : [datum.unreadable ?? ''];
  const row = placeOf(datum.origin);
  const { raw } = datum;
  if (format === 'csv') {
    // A line that cannot be read stays as it is, and unreadable with what stands beside it.
    if (typeof raw === 'string')
      return columns && hasApart(columns) ? `${raw}\n` : `${raw}${delimiter}${csvRow([row, findings.join(' ')], delimiter, true)}`;
    if (!Array.isArray(raw)) return undefined;
    const cells = columns ? withoutApart(columns, raw as readonly string[]) : (raw as readonly string[]);
    const width = columns ? withoutApart(columns, columns.header).length : cells.length;
    const padding = new Array<string>(Math.max(0, width - cells.length)).fill('');
    return csvRow([...cells, ...padding, row, findings.join(' ')], delimiter);
  }
  if (format === 'form') {
    if (raw === undefined) return undefined;
    const entries = [...new URLSearchParams(String(raw).trim())].filter(([name]) => !KEPT_APART.has(name));
    return `${new URLSearchParams([...entries, [ROW, row], ...findings.map((finding) => [FINDINGS, finding])])}\n`;
  }
  if (typeof raw !== 'object' || raw === null || Array.isArray(raw)) return undefined;
  return JSON.stringify({ ...raw, [ROW]: row, [FINDINGS]: findings });
}

/** The file with rows that were not accepted. */
export class RejectedFile {
  readonly #file: OutFile;
  #form: RowForm | undefined;
  #count = 0;
  /** The names of columns, until they are written. */
  #head = '';

  constructor(path: string) {
    // The rows may hold what is secret: the file is its owner's alone.
    this.#file = new OutFile(path, { mode: 0o600 });
  }

  /** Told of each file before its first row. */
  begin(given: RowForm): void {
    const form: RowForm = { ...given, format: given.format === 'list' ? 'json' : given.format };
    const known = this.#form;
    if (known && known.format !== form.format)
      throw new Misuse(
        `--rejected writes one format, and the data come as ${known.format} and ${form.format}; check them one after the other.`,
      );
    if (known?.columns && form.columns && headerOf(known.columns).join('\n') !== headerOf(form.columns).join('\n'))
      throw new Misuse('--rejected writes one header, and the files have several; check them one after the other.');
    this.#form ??= form;
    if (!known && form.columns) this.#head = csvRow([...headerOf(form.columns), ROW, FINDINGS], form.delimiter ?? ',');
  }

  async add(texts: readonly string[]): Promise<void> {
    const { format } = this.#form ?? {};
    let text = this.#takeHead();
    for (const each of texts)
      text += format === 'json' ? `${this.#count++ === 0 ? '[\n' : ',\n'}${each}` : format === 'ndjson' ? `${each}\n` : each;
    if (text !== '') await this.#file.write(text);
  }

  async end(): Promise<void> {
    await this.#file.write(this.#takeHead());
    if (this.#form?.format === 'json') await this.#file.write(this.#count === 0 ? '[]\n' : '\n]\n');
    await this.#file.end();
  }

  #takeHead(): string {
    const head = this.#head;
    this.#head = '';
    return head;
  }

  /** It came to nothing: what stood there before stays. */
  drop(): Promise<void> {
    return this.#file.drop();
  }
}

function csvRow(cells: readonly string[], delimiter: string, quoted = false): string {
  return stringify([cells as string[]], { delimiter, quoted });
}

function hasApart({ paths }: Columns): boolean {
  return paths.includes(undefined);
}

function headerOf(columns: Columns): readonly string[] {
  return withoutApart(columns, columns.header);
}

function withoutApart({ paths }: Columns, cells: readonly string[]): readonly string[] {
  return cells.filter((_, at) => at >= paths.length || paths[at] !== undefined);
}

function toldOf(verdict: Verdict<unknown>): string[] {
  if (verdict.outcome === 'rejected') return verdict.findings.map(({ message }) => message);
  return verdict.unsettled.map(({ use, why }) => `Not decided: ${use} (${why}).`);
}
