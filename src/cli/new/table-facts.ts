import { sql } from 'kysely';
import { nearest } from '../../core/basics/fault.ts';
import { mysqlInspector } from '../../records/sql/checking/mysql.ts';
import { postgresInspector } from '../../records/sql/checking/postgres.ts';
import { sqliteInspector } from '../../records/sql/checking/sqlite.ts';
import type { Database, SqlTable } from '../../records/sql/tables/database.ts';
import type { Reference, UniqueKey } from '../../records/sql/tables/inspector.ts';
import { Misuse } from '../basics/misuse.ts';
import type { OpenedDatabase } from '../records/database-at.ts';

export interface ColumnFacts {
  readonly name: string;
  /** As the database writes it, in lower case: `varchar(80)`. */
  readonly type: string;
  readonly isNeeded: boolean;
  /** The database fills it where nothing is given. */
  readonly isFilled: boolean;
  readonly isKey: boolean;
  /** Of an enumeration. */
  readonly options: readonly string[];
}

/** What a table declares. */
export interface TableFound {
  readonly table: SqlTable;
  readonly columns: readonly ColumnFacts[];
  readonly unique: readonly UniqueKey[];
  readonly references: readonly Reference[];
}

const INSPECTORS = { postgres: postgresInspector, mysql: mysqlInspector, sqlite: sqliteInspector };

/** @throws Misuse when there is no such table */
export async function tableIn({ dialect, db }: OpenedDatabase, named: string): Promise<TableFound> {
  const dot = named.indexOf('.');
  const schema = dot < 0 ? undefined : named.slice(0, dot);
  const name = named.slice(dot + 1);
  const table: SqlTable = { schema, name, ref: schema === undefined ? sql.id(name) : sql.id(schema, name) };
  const columns = await COLUMNS[dialect](db, table);
  if (columns.length === 0) {
    const tables = await db.introspection.getTables();
    throw new Misuse(
      `There is no table ${named}; ${nearest(
        named,
        tables.map((each) => each.name),
      )}`,
    );
  }
  const inspector = INSPECTORS[dialect];
  return { table, columns, unique: await inspector.uniqueKeysOf(db, table), references: await inspector.referencesOf(db, table) };
}

const COLUMNS: { readonly [D in OpenedDatabase['dialect']]: (db: Database, table: SqlTable) => Promise<ColumnFacts[]> } = {
  async postgres(db, { schema, name }) {
    const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;
    const full = schema === undefined ? quoted(name) : `${quoted(schema)}.${quoted(name)}`;
    const { rows } = await sql<{ name: string; type: string; needed: boolean; filled: boolean; key: boolean; options: string[] }>`
      select a.attname::text as name, format_type(a.atttypid, a.atttypmod) as type, a.attnotnull as needed,
        a.atthasdef or a.attidentity <> '' as filled, coalesce(a.attnum = any(i.indkey), false) as key,
        array(select e.enumlabel::text from pg_enum e where e.enumtypid = a.atttypid order by e.enumsortorder) as options
      from pg_attribute a left join pg_index i on i.indrelid = a.attrelid and i.indisprimary
      where a.attrelid = to_regclass(${full}) and a.attnum > 0 and not a.attisdropped order by a.attnum`.execute(db);
    return rows.map(({ name: column, type, needed, filled, key, options }) => ({
      name: column,
      type: type.toLowerCase(),
      isNeeded: needed,
      isFilled: filled,
      isKey: key,
      options,
    }));
  },

  async mysql(db, { schema, name }) {
    const { rows } = await sql<{ name: string; type: string; nullable: string; filled: string | null; extra: string; key: string }>`
      select column_name as name, column_type as type, is_nullable as nullable, column_default as filled, extra as extra, column_key as \`key\`
      from information_schema.columns
      where table_schema = ${schema ?? sql`database()`} and table_name = ${name} order by ordinal_position`.execute(db);
    return rows.map(({ name: column, type, nullable, filled, extra, key }) => ({
      name: column,
      type: type.toLowerCase(),
      isNeeded: nullable === 'NO',
      isFilled: (filled !== null && filled !== 'NULL') || /auto_increment|generated/i.test(extra),
      isKey: key === 'PRI',
      options: /^enum\(/i.test(type) ? [...type.matchAll(/'((?:[^']|'')*)'/g)].map(([, option = '']) => option.replaceAll("''", "'")) : [],
    }));
  },

  async sqlite(db, { name }) {
    const { rows } = await sql<{ name: string; type: string; notnull: number; filled: string | null; pk: number }>`
      select name as name, type as type, "notnull" as "notnull", dflt_value as filled, pk as pk from pragma_table_info(${name})`.execute(
      db,
    );
    return rows.map(({ name: column, type, notnull, filled, pk }) => ({
      name: column,
      type: type.toLowerCase(),
      isNeeded: notnull === 1 || pk > 0,
      isFilled: filled !== null || (pk === 1 && /^integer$/i.test(type) && rows.filter((row) => row.pk > 0).length === 1),
      isKey: pk > 0,
      options: [],
    }));
  },
};

/** Kinds by the types that databases name. */
const KINDS_BY_TYPE: readonly (readonly [type: RegExp, kind: string])[] = [
  [/^(bool|boolean|tinyint\(1\))/, 'flag'],
  [/^(big|small|medium|tiny)?int(eger)?\b|^int\d|serial/, 'whole'],
  [/^(numeric|decimal|dec\b|money)/, 'exact'],
  [/^(real|double|float)/, 'decimal'],
  [/^(timestamp|datetime)/, 'moment'],
  [/^date/, 'day'],
  [/^time/, 'timeOfDay'],
  [/^(json|bytea|.*blob|.*binary|xml|geometry|point)/, ''],
];

/** The kind of a column by its type; none of what holds more than one value. */
export function kindOfType(type: string): string {
  return KINDS_BY_TYPE.find(([pattern]) => pattern.test(type))?.[1] ?? 'text';
}
