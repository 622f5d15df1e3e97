import type { Readable } from 'node:stream';
import { nearest } from '../../core/basics/fault.ts';
import { UNREADABLE } from '../../core/declared/kind.ts';
import { collectionSpec } from '../../core/declared/look-up.ts';
import type { Collection } from '../../core/rules/collection.ts';
import type { Columns } from '../../core/stored/look-up.ts';
import type { Records } from '../../core/stored/records.ts';
import { type MemoryData, memoryRecords } from '../../records/memory.ts';
import { loadModule } from '../basics/loading.ts';
import { Misuse } from '../basics/misuse.ts';
import { databaseAt, isDatabase } from '../databases/databases.ts';
import { readJsonFile } from '../reading/read-data.ts';

export interface OpenedRecords {
  readonly records: Records;
  close(): Promise<void>;
}

/** Who opens them. */
export interface Telling {
  readonly stdin: Readable;
  readonly warn: (text: string) => void;
  /** They were there before: a database that does not answer is tried again. */
  readonly isPatient?: boolean;
}

type Collections = readonly Collection<Columns, string>[];

/**
 * The records that an option names: a JSON file with the rows of each collection, a database (`postgres://…`, `mysql://…`, an SQLite file),
 * or a module that exports `records`.
 */
export async function recordsAt(path: string, collections: Collections, { stdin, warn, isPatient }: Telling): Promise<OpenedRecords> {
  if (isDatabase(path)) {
    const database = await databaseAt(path, isPatient);
    return { records: database.records, close: database.close };
  }
  if (isModule(path)) return { records: await recordsIn(path), close: async () => undefined };
  return { records: memoryRecords(checked(path, await readJsonFile(path, stdin), collections, warn)), close: async () => undefined };
}

/** Records that a module exports. */
export function isModule(path: string): boolean {
  return !isDatabase(path) && /\.[cm]?[jt]sx?$/.test(path);
}

async function recordsIn(path: string): Promise<Records> {
  const { records, default: fallback } = await loadModule(path);
  const made: unknown = records ?? fallback;
  const found = typeof made === 'function' ? ((await made()) as unknown) : made;
  if (typeof (found as Records | undefined)?.ask === 'function') return found as Records;
  throw new Misuse(`${path} exports no records; export them by that name, such as: export const records = postgresRecords(db).`);
}

/** Rows as the collections declare them: what is wrong with them must not be blamed on a submission. */
function checked(path: string, data: unknown, collections: Collections, warn: (text: string) => void): MemoryData {
  const shape = `${path} must be a JSON object with a list of rows for each collection, such as { "berths": [{ "code": "A1" }] }`;
  if (typeof data !== 'object' || data === null || Array.isArray(data)) throw new Misuse(`${shape}.`);
  for (const [name, rows] of Object.entries(data)) {
    if (!Array.isArray(rows) || rows.some((row) => typeof row !== 'object' || row === null))
      throw new Misuse(`${shape}; "${name}" is none.`);
  }
  for (const each of collections) {
    const { name, columns } = collectionSpec(each);
    if (!Object.hasOwn(data, name)) {
      warn(`${path} has no collection "${name}"; rules that ask it cannot be decided.\n`);
      continue;
    }
    for (const [index, row] of ((data as MemoryData)[name] as readonly { readonly [column: string]: unknown }[]).entries()) {
      const place = `${path}, ${name}, row ${index + 1}`;
      for (const column of Object.keys(row)) {
        // A file may hold more columns than rules ask for, unless one looks like a slip.
        const near = nearest(column, Object.keys(columns));
        if (!Object.hasOwn(columns, column) && near.startsWith('did you mean') && !hasAll(row, columns))
          throw new Misuse(`${place}: "${column}" is no column; ${near}`);
      }
      for (const [column, { spec, maybe }] of Object.entries(columns)) {
        const value = row[column];
        if (value === undefined || value === null) {
          if (!maybe) throw new Misuse(`${place}: it has no "${column}", which rules take every row to have.`);
        } else if (spec.stored(value) === UNREADABLE)
          throw new Misuse(`${place}: "${column}" holds ${JSON.stringify(value)}, which is no ${spec.name}.`);
      }
    }
  }
  return data as MemoryData;
}

function hasAll(row: object, columns: object): boolean {
  return Object.keys(columns).every((column) => Object.hasOwn(row, column));
}
