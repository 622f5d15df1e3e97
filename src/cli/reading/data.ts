import type { Origin } from '../../screening/summary.ts';

export type { Origin };

/** One submission, or a place in the data that holds none. */
export type Datum = { readonly origin: Origin; readonly raw: Raw } & (
  | { readonly submission: unknown; readonly unreadable?: never }
  | { readonly unreadable: string }
);

/** A piece of data as it stands in its file: the cells of a row, the line of a form, or the JSON value. */
export type Raw = unknown;

/** The formats that are read. A JSON text is one value, or a list, whose pieces are entries with a comma or bracket behind each. */
export type Format = 'json' | 'list' | 'ndjson' | 'csv' | 'form';

export function placeOf({ file, line, entry }: Origin): string {
  return `${file}${line === undefined ? '' : `, line ${line}`}${entry === undefined ? '' : `, entry ${entry}`}`;
}
