import { Misuse } from '../basics/misuse.ts';
import type { OpenedDatabase } from '../databases/sort.ts';

export type Row = { readonly [column: string]: unknown };
export type Key = readonly unknown[];

/** The rows of a table in the order of its key, from behind a key on; few at a time, so that none is held for long. */
export async function* rowsOf(
  { db }: OpenedDatabase,
  table: string,
  key: readonly string[],
  after: Key | undefined,
  atATime: number,
): AsyncGenerator<readonly Row[]> {
  let last = after;
  for (;;) {
    let query = db.selectFrom(table).selectAll().limit(atATime);
    for (const column of key) query = query.orderBy(column);
    const begin = last;
    if (begin)
      query = query.where((eb) =>
        // (a, b) > (x, y), written out: not every database compares rows.
        eb.or(
          key.map((column, at) =>
            eb.and([...key.slice(0, at).map((earlier, index) => eb(earlier, '=', begin[index])), eb(column, '>', begin[at])]),
          ),
        ),
      );
    let rows: readonly Row[];
    try {
      rows = (await query.execute()) as readonly Row[];
    } catch (cause) {
      throw new Misuse(`The table ${table} cannot be read: ${(cause as Error).message}.`);
    }
    if (rows.length === 0) return;
    yield rows;
    if (rows.length < atATime) return;
    last = keyOf(rows.at(-1) as Row, key);
  }
}

export function keyOf(row: Row, key: readonly string[]): Key {
  return key.map((column) => row[column]);
}
