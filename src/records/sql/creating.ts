import { type RawBuilder, sql } from 'kysely';
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

/** A row that is written down. */
export function selected(values: readonly (readonly [column: string, value: Scalar])[]): RawBuilder<unknown> {
  const columns = values.map(([column, value]) => sql`${typeof value === 'boolean' ? Number(value) : value} as ${sql.id(column)}`);
  return sql`(select ${columns.length > 0 ? sql.join(columns) : sql`1 as one`}) as r`;
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
  const where = predicateOf(only, nameOf, quote);
  const target = table.split('.').map(quote).join('.');
  if (where === '') return `create unique index ${quote(name)} on ${target} (${key.join(', ')})`;
  if (hasPartial) return `create unique index ${quote(name)} on ${target} (${key.join(', ')}) where ${where}`;
  // A key compares no rows in which one of its columns holds nothing.
  const made = quote(`${name}_when`);
  return `alter table ${target} add column ${made} tinyint as (case when ${where} then 1 end), add unique key ${quote(name)} (${[...key, made].join(', ')})`;
}

function predicateOf(only: UniqueNeed['only'], nameOf: (column: string) => string, quote: (name: string) => string): string {
  return Object.entries(only)
    .map(([column, values]) => {
      const each = values.map((value) => `${quote(nameOf(column))} ${equalTo(value)}`);
      return each.length === 1 ? each[0] : `(${each.join(' or ')})`;
    })
    .join(' and ');
}

function equalTo(value: Scalar): string {
  if (value === null) return 'is null';
  return typeof value === 'string' ? `= '${value.replaceAll("'", "''")}'` : `= ${value}`;
}
