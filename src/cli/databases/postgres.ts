import type { Database } from '../../records/sql/tables/database.ts';
import { quoted } from '../../records/sql/tables/writing.ts';
import { packageOf } from '../basics/package-of.ts';
import { withoutPassword } from './address.ts';
import { asJson, type DatabaseSort } from './sort.ts';

export const postgres: DatabaseSort = {
  shown: 'postgres://…',
  isAddress: (text) => /^postgres(ql)?:\/\//.test(text),

  async open(address) {
    const { Kysely, PostgresDialect } = await packageOf<typeof import('kysely')>('kysely', withoutPassword(address));
    const { default: pg } = await packageOf<{ readonly default: typeof import('pg') }>('pg', withoutPassword(address));
    const { postgresRecords } = await import('../../records/sql/index.ts');
    const pool = new pg.Pool({ connectionString: address, max: 4 });
    // A connection that breaks while nobody uses it is no reason to end: the next question opens another, or says that it cannot.
    pool.on('error', () => undefined);
    const db: Database = new Kysely({ dialect: new PostgresDialect({ pool }) });
    return { db, records: postgresRecords(db) };
  },

  inspector: async () => (await import('../../records/sql/postgres/inspector.ts')).postgresInspector,

  async columnsOf(own, db, { schema, name }) {
    const full = schema === undefined ? quoted(name) : `${quoted(schema)}.${quoted(name)}`;
    const { rows } = await own<{ name: string; type: string; needed: boolean; filled: boolean; key: boolean; options: string[] }>`
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

  // A column of several values takes them as they are.
  written: (value, type) => (type.endsWith('[]') ? value : asJson(value)),
  longText: 'text',
};
