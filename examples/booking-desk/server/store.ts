import { type BerthBooking, nightsOf } from '@pellwick/marina';
import { Kysely, SqliteDialect, sql, type Transaction } from 'kysely';
import Database from 'libsql';

interface Tables {
  owners: { id: number; email: string; creditLimit: number };
  vessels: { id: number; mark: string; ownerId: number; electric: number; insuredUntil: string };
  berths: { code: string; maxLength: number; price: number };
  bookings: {
    id?: number;
    berth: string;
    mark: string;
    arrives: string;
    departs: string;
    power: string | null;
    guests: number;
    notes: string | null;
    gateCode: string;
  };
  berthNights: { berth: string; night: string; booking: number };
}
export type Store = Kysely<Tables>;
export type StoreTransaction = Transaction<Tables>;

// SQLite has no constraint against overlapping intervals. One row a night, unique by berth, is one.
const SCHEMA = `
  create table owners (id integer primary key, email text not null unique collate nocase, creditLimit numeric not null);
  create table vessels (id integer primary key, mark text not null unique, ownerId integer not null references owners, electric integer not null, insuredUntil text not null);
  create table berths (code text primary key, maxLength numeric not null, price numeric not null);
  create table bookings (id integer primary key autoincrement, berth text not null references berths, mark text not null references vessels (mark),
    arrives text not null, departs text not null, power text, guests integer not null, notes text, gateCode text not null);
  create table berthNights (berth text not null, night text not null, booking integer not null references bookings, primary key (berth, night));
`;

/** Rows to begin with, by collection. */
export interface Seed {
  readonly owners: readonly Tables['owners'][];
  readonly vessels: readonly (Omit<Tables['vessels'], 'electric'> & { readonly electric: boolean })[];
  readonly berths: readonly Tables['berths'][];
  readonly bookings: readonly { readonly id: number; readonly berth: string; readonly arrives: string; readonly departs: string }[];
}

/** Opens the embedded database; a new file is given its tables and the demo data. */
export async function openStore(file: string, seed: Seed): Promise<Store> {
  const database = new Database(file);
  database.exec('pragma foreign_keys = on');
  const store = new Kysely<Tables>({ dialect: new SqliteDialect({ database: database as never }) });
  const { rows } = await sql<{ name: string }>`select name from sqlite_master where name = 'bookings'`.execute(store);
  if (rows.length === 0) {
    database.exec(SCHEMA);
    await store.transaction().execute((transaction) => fill(transaction, seed));
  }
  return store;
}

async function fill(store: StoreTransaction, seed: Seed): Promise<void> {
  await store
    .insertInto('owners')
    .values([...seed.owners])
    .execute();
  await store
    .insertInto('vessels')
    .values(seed.vessels.map((vessel) => ({ ...vessel, electric: vessel.electric ? 1 : 0 })))
    .execute();
  await store
    .insertInto('berths')
    .values([...seed.berths])
    .execute();
  const mark = seed.vessels[0]?.mark as string;
  for (const { id, ...stay } of seed.bookings) {
    await keep(store, { id, ...stay, mark, power: null, guests: 2, notes: null, gateCode: '0000' });
  }
}

async function keep(store: StoreTransaction, booking: Tables['bookings']): Promise<number> {
  const { insertId } = await store.insertInto('bookings').values(booking).executeTakeFirstOrThrow();
  const id = Number(insertId);
  const nights = nightsOf(booking).map((night) => ({ berth: booking.berth, night, booking: id }));
  await store.insertInto('berthNights').values(nights).execute();
  return id;
}

/** Keeps an accepted booking and its nights; gives its number. */
export function keepBooking(store: StoreTransaction, booking: BerthBooking): Promise<number> {
  const { berth, mark, arrives, departs, power, crew, notes, gateCode } = booking;
  return keep(store, { berth, mark, arrives, departs, power: power ?? null, guests: crew.length, notes: notes ?? null, gateCode });
}

/** What everybody may see of the bookings. */
export function listBookings(store: Store) {
  return store
    .selectFrom('bookings')
    .select(['id', 'berth', 'mark', 'arrives', 'departs', 'power', 'guests'])
    .orderBy('arrives')
    .orderBy('berth')
    .execute();
}

export function listBerths(store: Store) {
  return store.selectFrom('berths').selectAll().orderBy('code').execute();
}
