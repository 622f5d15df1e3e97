import type { StoredAs } from '../../../core/declared/kind.ts';

/** How a database has tables written; nothing of it is asked. */
export interface Writing {
  /** A name as an identifier. */
  readonly quote: (name: string) => string;
  /** The type of a column, by what it keeps. */
  readonly types: { readonly [S in Exclude<StoredAs, 'text' | 'any'>]: string };
  /** The type of a text, and whether that alone keeps it within its length, in characters. */
  readonly text: (most: number | undefined) => { readonly type: string; readonly keepsLength: boolean };
  /** A number of so many digits before and after the decimal point. */
  readonly precise: (whole: number, places: number) => string;
  /** The type of a key that the database counts up. */
  readonly counted: string;
  /** The function that counts the characters of a text. */
  readonly length: string;
  readonly literal: (value: unknown) => string;
}

/** An identifier of standard SQL. */
export const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;

/** A value as standard SQL writes it. */
export function literal(value: unknown): string {
  return typeof value === 'number' || typeof value === 'boolean' ? String(value) : `'${String(value).replaceAll("'", "''")}'`;
}
