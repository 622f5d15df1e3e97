import type { ClaimedInterval, ClaimStore, Edge } from '../../../core/asking/ledger.ts';
import { exactOf } from '../../../core/basics/exact.ts';
import { fault } from '../../../core/basics/fault.ts';

/** An embedded SQLite database that answers at once, such as `new Database(path)` of libsql. */
export interface SyncSqlite {
  /** Runs statements. */
  exec(statements: string): unknown;
  /** Prepares a statement with places for values. */
  prepare(statement: string): {
    /** The first row. */
    get(...values: never[]): unknown;
    /** Runs it for what it does. */
    run(...values: never[]): unknown;
  };
}

/** Keeps many values at once, in little time. */
export interface ManyClaims {
  holdAll(values: readonly (readonly [rule: number, key: string, row: number])[]): void;
}

/** Values of a statement, handed over as one JSON text: values by themselves would each cross into the database. */
const AT_ONCE = 5000;

interface Prepared {
  get(...values: (string | number)[]): unknown;
  run(...values: (string | number)[]): unknown;
}

// Nobody needs the file after a crash, and nobody else reads it: all is one transaction without end, whose pages are written when there is
// no more room for them.
const SCHEMA = `
  pragma journal_mode = off;
  pragma synchronous = off;
  pragma locking_mode = exclusive;
  pragma cache_size = -8192;
  begin;
  create table jestril_held (rule integer, key text, row integer, primary key (rule, key)) without rowid;
  create table jestril_spans (rule integer, key text, sort integer, start text, stop text, row integer,
    primary key (rule, key, sort, stop, row)) without rowid;
`;

/** Intervals that hold something, that begin where they end, and that end before they begin or share something with others. */
const [FULL, EMPTY, ODD] = [0, 1, 2];

/**
 * Keeps what the rows of a `judgeMany` claim in an SQLite file, so that memory does not grow with the rows:
 * `judgeMany(rows, { records, claims: claimsIn(new Database('')) })`. Without a name SQLite takes a temporary file, which is gone when
 * the database is closed.
 *
 * @param database one of its own, that holds nothing: it is made fast, and not safe
 * @throws Fault for one that holds something
 */
export function claimsIn(database: SyncSqlite): ClaimStore & ManyClaims {
  const { tables } = database.prepare('select count(*) as tables from sqlite_master').get() as { tables: number };
  if (Number(tables) > 0) fault('claimsIn needs a database of its own that holds nothing; this one has tables.');
  database.exec(SCHEMA);
  const prepare = (statement: string) => telling(database.prepare(statement) as Prepared);
  const held = prepare('select row from jestril_held where rule = ? and key = ?');
  const hold = prepare('insert or replace into jestril_held values (?, ?, ?)');
  const holdMany = prepare('insert or replace into jestril_held select value ->> 0, value ->> 1, value ->> 2 from json_each(?)');
  const holdSpan = prepare('insert into jestril_spans values (?, ?, ?, ?, ?, ?)');
  const spans = 'from jestril_spans where rule = ? and key = ?';
  // Those of one sort share nothing: of all that end late enough, the first one alone may begin early enough, whichever way round the
  // interval asked about is.
  const next = prepare(`select start, row ${spans} and sort = ? and stop > ? order by stop limit 1`);
  const nextTouching = prepare(`select start, row ${spans} and sort = ? and stop >= ? order by stop limit 1`);
  const odd = prepare(`select row ${spans} and sort = ${ODD} and start < ? and stop > ? order by row limit 1`);
  const oddTouching = prepare(`select row ${spans} and sort = ${ODD} and start <= ? and stop >= ? order by row limit 1`);
  return {
    holdAll(values) {
      for (let at = 0; at < values.length; at += AT_ONCE) holdMany.run(JSON.stringify(values.slice(at, at + AT_ONCE)));
    },
    holderOf: (rule, key) => rowIn(held.get(rule, key)),
    hold: (rule, key, row) => void hold.run(rule, key, row),
    overlapping(rule, key, interval) {
      const { start, stop } = edgesOf(interval);
      const { touching } = interval;
      for (const sort of [FULL, EMPTY]) {
        const first = (touching ? nextTouching : next).get(rule, key, sort, start) as { start: string; row: number } | undefined;
        if (first && (touching ? first.start <= stop : first.start < stop)) return Number(first.row);
      }
      return rowIn((touching ? oddTouching : odd).get(rule, key, stop, start));
    },
    holdInterval(rule, key, interval, row, isAside = false) {
      const { start, stop } = edgesOf(interval);
      holdSpan.run(rule, key, isAside || stop < start ? ODD : stop > start ? FULL : EMPTY, start, stop, row);
    },
  };
}

/** A file that can grow no more is said to be that; what came before is lost with it. */
function telling(prepared: Prepared): Prepared {
  const told =
    <R>(call: (...values: (string | number)[]) => R) =>
    (...values: (string | number)[]): R => {
      try {
        return call(...values);
      } catch (error) {
        const { code, errcode } = error as { code?: unknown; errcode?: unknown };
        if (code !== 'SQLITE_FULL' && errcode !== SQLITE_FULL) throw error;
        throw new Error('The disk is full, and what the rows claim cannot be kept any more; make room, and begin again.', { cause: error });
      }
    };
  return { get: told(prepared.get.bind(prepared)), run: told(prepared.run.bind(prepared)) };
}
const SQLITE_FULL = 13;

function rowIn(found: unknown): number | undefined {
  return found === undefined || found === null ? undefined : Number((found as { row: unknown }).row);
}

/** Both ends as texts that stand in the order of what they say; an open end lies beyond everything. */
function edgesOf({ from, to, isNumber }: ClaimedInterval): { readonly start: string; readonly stop: string } {
  const textOf = (edge: Edge, open: string) =>
    edge === undefined ? open : isNumber || typeof edge === 'number' ? orderedNumber(edge) : `2${edge}`;
  return { start: textOf(from, '1'), stop: textOf(to, '3') };
}

/** A number as a text that sorts as numbers do: its sign, how many digits stand before the point, its digits. */
function orderedNumber(value: string | number): string {
  const [, sign = '', whole = '0', places = ''] = /^(-?)([0-9]+)(?:\.([0-9]+))?$/.exec(exactOf(value) ?? '0') ?? [];
  const digits = `${String(whole.length).padStart(3, '0')}${whole}.${places}`;
  if (sign === '') return `2+${digits}`;
  // Of two below zero the one with the larger digits is less; `:` stands behind all digits, so that more places are less, too.
  return `2!${digits.replaceAll(/[0-9]/g, (digit) => String(9 - Number(digit)))}:`;
}
