import type { RawBuilder } from 'kysely';
import type { UniqueNeed } from '../../core/stored/records.ts';
import type { Scalar } from '../../core/verdict.ts';
import type { Database } from './dialect.ts';

/** An identifier of standard SQL. */
export const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;

/** The names that a query gives; `undefined` for none, since a table has columns. */
export async function columnsFrom(query: RawBuilder<unknown>, db: Database): Promise<string[] | undefined> {
  const { rows } = await (query as RawBuilder<{ name: string }>).execute(db);
  return rows.length === 0 ? undefined : rows.map(({ name }) => name);
}

/** `create unique index … on … (…) where …`, for databases that have indexes over expressions. */
export function createUniqueIndex(
  table: string,
  { columns, ignoringCase, only }: UniqueNeed,
  nameOf: (column: string) => string,
  name: string,
  folded: (column: string) => string,
  { hasPartial, quote = quoted }: { readonly hasPartial: boolean; readonly quote?: (name: string) => string },
): string {
  const key = columns.map((column) => (ignoringCase.includes(column) ? folded(nameOf(column)) : quote(nameOf(column))));
  const where = Object.entries(only).map(([column, value]) => `${quote(nameOf(column))} ${equalTo(value)}`);
  const target = table.split('.').map(quote).join('.');
  const index = `create unique index ${quote(name)} on ${target} (${key.join(', ')})`;
  return hasPartial && where.length > 0 ? `${index} where ${where.join(' and ')}` : index;
}

function equalTo(value: Scalar): string {
  if (value === null) return 'is null';
  return typeof value === 'string' ? `= '${value.replaceAll("'", "''")}'` : `= ${value}`;
}
