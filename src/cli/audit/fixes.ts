import { existsSync, writeFileSync } from 'node:fs';
import { stringify } from 'csv-stringify/sync';
import { UNREADABLE } from '../../core/declared/kind.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { Misuse } from '../basics/misuse.ts';
import type { Row } from './tables.ts';

/** The records that would be refused, written to be mended: as CSV, or one JSON object a line. */
export class Fixes {
  readonly #path: string;
  readonly #plan: Plan;
  #isBegun: boolean;
  #lines = '';

  /** @param goesOn an audit that goes on writes behind what it has written */
  constructor(path: string, plan: Plan, goesOn: boolean) {
    this.#path = path;
    this.#plan = plan;
    this.#isBegun = goesOn && existsSync(path);
  }

  add(row: Row, told: readonly string[]): void {
    const read = Object.fromEntries(Object.entries(row).map(([column, value]) => [column, this.#asWritten(column, value)]));
    if (!/\.csv$/i.test(this.#path)) this.#lines += `${JSON.stringify({ ...read, '#findings': told })}\n`;
    else {
      if (!this.#isBegun && this.#lines === '') this.#lines = stringify([[...Object.keys(row), '#findings']]);
      this.#lines += stringify([[...Object.values(read).map(cellOf), told.join(' ')]]);
    }
  }

  /** Writes what was added, before it is remembered that it was. */
  flush(): void {
    if (this.#lines === '') return;
    try {
      writeFileSync(this.#path, this.#lines, { flag: this.#isBegun ? 'a' : 'w', mode: 0o600 });
    } catch (cause) {
      throw new Misuse(`${this.#path} cannot be written: ${(cause as Error).message}.`);
    }
    this.#isBegun = true;
    this.#lines = '';
  }

  /** A day is written as a day, whatever the driver makes of it. */
  #asWritten(column: string, raw: unknown): unknown {
    const step = this.#plan.fields.steps.find(({ key }) => key === column);
    if (raw === null || !step || step.sort.isMade || step.kind.isObject) return raw;
    const value = step.kind.stored(raw);
    return value === UNREADABLE ? raw : value;
  }
}

function cellOf(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) return value.toISOString();
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}
