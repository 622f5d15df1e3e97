import { closeSync, createReadStream, openSync, readSync } from 'node:fs';
import type { Counts } from '../../../screening/summary.ts';
import { addTo, NOTHING, type Origin } from '../../../screening/summary.ts';
import type { ImportedRule } from '../../../workbench/wire/imports.ts';
import { Misuse } from '../../basics/misuse.ts';

/** A verdict as `screen` and `check --format json` write it, in a line of its own. */
export interface ReadVerdict extends Origin {
  readonly outcome: keyof Counts;
  readonly findings?: readonly ReadFinding[];
  readonly warnings?: readonly ReadFinding[];
  readonly unsettled?: readonly { readonly use: string; readonly why: string }[];
  readonly problem?: string;
}

/** The places of a finding, as one or the other writes them. */
interface ReadFinding {
  readonly use: string;
  readonly message: string;
  readonly severity?: 'error' | 'warning';
  readonly at?: readonly string[];
  readonly places?: readonly { readonly pointer: string }[];
}

/** Rows between two places whose bytes are known. */
const APART = 1000;
/** Columns in which rows are drawn from the first to the last, and rows of a rule that are known by number. */
const MOST_COLUMNS = 120;
const MOST_ROWS = 500;
const ACCEPTED = Buffer.from('"outcome":"accepted"}');

export function pointersOf({ at, places }: ReadFinding): readonly string[] {
  return at ?? places?.map(({ pointer }) => pointer) ?? [];
}

/** All that was found in an import: counted, and each row at hand by its number. */
export class VerdictList {
  readonly #path: string;
  /** Bytes before every so manieth row. */
  readonly #offsets: number[] = [];
  readonly #rules = new Map<string, { readonly rule: Omit<ImportedRule, 'count' | 'rows'>; count: number; readonly rows: number[] }>();
  readonly #blocks: Counts[] = [];
  readonly counts: Counts = { ...NOTHING };
  #rows = 0;

  private constructor(path: string) {
    this.#path = path;
  }

  /**
   * Reads it once, from the first verdict to the last.
   *
   * @throws Misuse for a file that holds no verdicts
   */
  static async of(path: string): Promise<VerdictList> {
    const list = new VerdictList(path);
    let rest: Buffer = Buffer.alloc(0);
    let at = 0;
    for await (const chunk of createReadStream(path, { highWaterMark: 1_000_000 })) {
      rest = rest.length === 0 ? (chunk as Buffer) : Buffer.concat([rest, chunk as Buffer]);
      let start = 0;
      for (let end = rest.indexOf(10); end >= 0; end = rest.indexOf(10, start)) {
        list.#take(rest.subarray(start, end), at + start);
        start = end + 1;
      }
      at += start;
      rest = rest.subarray(start);
    }
    if (rest.length > 0) list.#take(rest, at);
    if (list.#rows === 0) throw new Misuse(`${path} ${NO_VERDICTS}`);
    return list;
  }

  get rows(): number {
    return this.#rows;
  }

  /** The rules that found something, those that found most first. */
  get rules(): readonly ImportedRule[] {
    return [...this.#rules.values()]
      .map(({ rule, count, rows }) => ({ ...rule, count, rows }))
      .sort((one, other) => other.count - one.count);
  }

  /** What became of the rows, in columns from the first to the last. */
  get columns(): readonly Counts[] {
    const each = Math.ceil(this.#blocks.length / MOST_COLUMNS);
    const columns: Counts[] = [];
    for (let at = 0; at < this.#blocks.length; at += each) {
      const column: Counts = { ...NOTHING };
      for (const block of this.#blocks.slice(at, at + each)) addTo(column, block);
      columns.push(column);
    }
    return columns;
  }

  /** @throws Misuse where there is no such row */
  verdict(row: number): ReadVerdict {
    if (row < 1 || row > this.#rows)
      throw new Misuse(`There is no row ${row}; they are counted from 1 to ${this.#rows.toLocaleString('en')}.`);
    const opened = openSync(this.#path, 'r');
    try {
      let [at, before] = [this.#offsets[Math.floor((row - 1) / APART)] as number, (row - 1) % APART];
      let rest: Buffer = Buffer.alloc(0);
      const bytes = Buffer.alloc(200_000);
      for (;;) {
        const end = rest.indexOf(10);
        if (end >= 0) {
          if (before === 0) return parsed(this.#path, rest.subarray(0, end));
          before -= 1;
          rest = rest.subarray(end + 1);
          continue;
        }
        const read = readSync(opened, bytes, 0, bytes.length, at);
        if (read === 0) return parsed(this.#path, rest);
        at += read;
        rest = Buffer.concat([rest, bytes.subarray(0, read)]);
      }
    } finally {
      closeSync(opened);
    }
  }

  #take(line: Buffer, offset: number): void {
    const isPlain = line.subarray(-ACCEPTED.length).equals(ACCEPTED);
    const verdict = isPlain ? undefined : parsed(this.#path, line);
    // Behind the verdicts of a check stands their summary.
    if (verdict && verdict.outcome === undefined && this.#rows > 0) return;
    const outcome = verdict ? verdict.outcome : 'accepted';
    if (!Object.hasOwn(NOTHING, outcome ?? '')) throw new Misuse(`${this.#path} ${NO_VERDICTS}`);
    if (this.#rows % APART === 0) {
      this.#offsets.push(offset);
      this.#blocks.push({ ...NOTHING });
    }
    this.#rows += 1;
    this.counts[outcome] += 1;
    (this.#blocks.at(-1) as Counts)[outcome] += 1;
    if (!verdict) return;
    for (const finding of [...(verdict.findings ?? []), ...(verdict.warnings ?? [])])
      this.#count({ use: finding.use, severity: finding.severity ?? 'error', message: finding.message });
    for (const { use, why } of verdict.unsettled ?? []) this.#count({ use, severity: 'open', message: why });
  }

  #count(rule: Omit<ImportedRule, 'count' | 'rows'>): void {
    const key = `${rule.severity} ${rule.use}`;
    const known = this.#rules.get(key) ?? { rule, count: 0, rows: [] };
    this.#rules.set(key, known);
    known.count += 1;
    if (known.rows.length < MOST_ROWS && known.rows.at(-1) !== this.#rows) known.rows.push(this.#rows);
  }
}

const NO_VERDICTS =
  'holds no verdicts; name the folder of a screening (jestril screen start … --to FOLDER), or what was written by: jestril check … --format json > FILE.';

function parsed(path: string, line: Buffer): ReadVerdict {
  try {
    const value: unknown = JSON.parse(line.toString());
    if (typeof value === 'object' && value !== null) return value as ReadVerdict;
  } catch {
    // Told below.
  }
  throw new Misuse(`${path} ${NO_VERDICTS}`);
}
