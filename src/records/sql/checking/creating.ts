import { type RawBuilder, sql } from 'kysely';
import type { Scalar } from '../../../core/basics/verdict.ts';
import type { StoredAs } from '../../../core/declared/kind.ts';
import type { FixedValues, OverlapNeed, UniqueNeed } from '../../../core/stored/records.ts';
import { quoted } from '../tables/writing.ts';

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
  const target = qualified(table, quote);
  if (where === '') return `create unique index ${quote(name)} on ${target} (${key.join(', ')})`;
  if (hasPartial) return `create unique index ${quote(name)} on ${target} (${key.join(', ')}) where ${where}`;
  // A key compares no rows in which one of its columns holds nothing.
  const made = quote(`${name}_when`);
  return `alter table ${target} add column ${made} tinyint as (case when ${where} then 1 end), add unique key ${quote(name)} (${[...key, made].join(', ')})`;
}

/** `alter table … add constraint … foreign key (…) references … (…)`. */
export function createReference(
  table: string,
  columns: readonly string[],
  refersTo: string,
  referred: readonly string[],
  quote: (name: string) => string,
): string {
  const name = quote([table.slice(table.indexOf('.') + 1), ...columns, 'known'].join('_'));
  const list = (names: readonly string[]) => `(${names.map(quote).join(', ')})`;
  return `alter table ${qualified(table, quote)} add constraint ${name} foreign key ${list(columns)} references ${qualified(refersTo, quote)} ${list(referred)}`;
}

/** PostgreSQL has ranges of these. */
const RANGES: { readonly [S in StoredAs]?: string } = {
  date: 'daterange',
  timestamp: 'tstzrange',
  integer: 'int8range',
  numeric: 'numrange',
};

/** `alter table … add constraint … exclude using gist (…)`; `undefined` where there are no ranges. */
export function createExclusion(
  table: string,
  { columns, ignoringCase, interval, touching, only }: OverlapNeed,
  nameOf: (column: string) => string,
  storedAs: StoredAs,
  name: string,
): string | undefined {
  const range = RANGES[storedAs];
  if (range === undefined) return undefined;
  const alike = columns.map((column) => {
    const ref = quoted(nameOf(column));
    return `${ignoringCase.includes(column) ? `lower(${ref})` : ref} with =`;
  });
  const [from, to] = interval.map((column) => quoted(nameOf(column)));
  const parts = [...alike, `${range}(${from}, ${to}, '${touching ? '[]' : '[)'}') with &&`];
  const where = predicateOf(only, nameOf, quoted);
  return `create extension if not exists btree_gist; alter table ${qualified(table, quoted)} add constraint ${quoted(name)} exclude using gist (${parts.join(', ')})${where === '' ? '' : ` where (${where})`}`;
}

export function qualified(table: string, quote: (name: string) => string): string {
  return table.split('.').map(quote).join('.');
}

function predicateOf(only: FixedValues, nameOf: (column: string) => string, quote: (name: string) => string): string {
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
