import type { Database } from '../../records/sql/tables/database.ts';
import { packageOf } from '../basics/package-of.ts';
import { withoutPassword } from './address.ts';
import { asJson, type DatabaseSort } from './sort.ts';

export const mysql: DatabaseSort = {
  shown: 'mysql://…',
  isAddress: (text) => /^(mysql|mariadb):\/\//.test(text),

  async open(address) {
    const { Kysely, MysqlDialect } = await packageOf<typeof import('kysely')>('kysely', withoutPassword(address));
    const { createPool } = await packageOf<typeof import('mysql2')>('mysql2', withoutPassword(address));
    const { mysqlRecords } = await import('../../records/sql/index.ts');
    const pool = createPool({ uri: address.replace(/^mariadb:/, 'mysql:'), connectionLimit: 4, dateStrings: true });
    const db: Database = new Kysely({ dialect: new MysqlDialect({ pool: pool as never }) });
    return { db, records: mysqlRecords(db) };
  },

  inspector: async () => (await import('../../records/sql/mysql/inspector.ts')).mysqlInspector,

  async columnsOf(own, db, { schema, name }) {
    const { rows } = await own<{ name: string; type: string; nullable: string; filled: string | null; extra: string; key: string }>`
      select column_name as name, column_type as type, is_nullable as nullable, column_default as filled, extra as extra, column_key as \`key\`
      from information_schema.columns
      where table_schema = ${schema ?? own`database()`} and table_name = ${name} order by ordinal_position`.execute(db);
    return rows.map(({ name: column, type, nullable, filled, extra, key }) => ({
      name: column,
      type: type.toLowerCase(),
      isNeeded: nullable === 'NO',
      isFilled: (filled !== null && filled !== 'NULL') || /auto_increment|generated/i.test(extra),
      isKey: key === 'PRI',
      options: /^enum\(/i.test(type) ? [...type.matchAll(/'((?:[^']|'')*)'/g)].map(([, option = '']) => option.replaceAll("''", "'")) : [],
    }));
  },

  // A moment is kept in UTC, without saying so.
  written: (value, type) =>
    typeof value === 'string' && /^(datetime|timestamp)/.test(type) ? value.replace('T', ' ').replace(/Z$/, '') : asJson(value),
  longText: 'longtext',
};
