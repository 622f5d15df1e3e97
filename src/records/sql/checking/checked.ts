import type { Need } from '../../../core/stored/records.ts';
import type { TableFacts } from '../tables/inspector.ts';
import type { Rows } from './covering.ts';
/** One collection and its table, for those who look for gaps. */
export interface Checked extends Rows {
  readonly need: Need;
  readonly facts: TableFacts;
  /** The table with its schema, for sentences and statements. */
  readonly full: string;
}

export function told(columns: readonly string[]): string {
  return columns.map((column) => `"${column}"`).join(' and ');
}
