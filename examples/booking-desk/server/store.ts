import { type BerthBooking, type CertifiedRegistration, type DeskPowerOrder, nightsOf, type OwnerSignUp } from '@pellwick/marina';
import type { Upload } from 'jestril';
import { Kysely, SqliteDialect, sql, type Transaction } from 'kysely';
import Database from 'libsql';

interface Tables {
  owners: {
    id?: number;
    email: string | null;
    creditLimit: number;
    name: string;
    phone: string | null;
    born: string | null;
    phrase: string | null;
  };
  vessels: {
    id?: number;
    mark: string;
    ownerId: number;
    electric: number;
    insuredUntil: string;
    name: string;
    lengthOverall: number;
    beam: number;
    certificate: Buffer | null;
    certificateType: string | null;
  };
  berths: { code: string; maxLength: number; price: number };
  bookings: {
    id?: number;
    ownerId: number;
    berth: string;
    mark: string;
    lengthOverall: number;
    beam: number;
    arrives: string;
    departs: string;
    power: string | null;
    crew: string;
    notes: string | null;
    gateCode: string;
  };
  berthNights: { berth: string; night: string; booking: number };
  tariffs: { plug: string; price: number | string };
  powerOrders: { id?: number; mark: string; plug: string; price: string; amount: number; total: string };
}
export type Store = Kysely<Tables>;
/** The store inside a transaction. */
export type StoreTransaction = Store | Transaction<Tables>;

// SQLite has no constraint against overlapping intervals. One row a night, unique by berth, is one.
const SCHEMA = `
  create table owners (id integer primary key, email text unique collate nocase, creditLimit numeric not null, name text not null, phone text, born text, phrase text);
  create table vessels (id integer primary key, mark text not null unique, ownerId integer not null references owners, electric integer not null,
    insuredUntil text not null, name text not null, lengthOverall numeric not null, beam numeric not null, certificate blob, certificateType text);
  create table berths (code text primary key, maxLength numeric not null, price numeric not null);
  create table bookings (id integer primary key autoincrement, ownerId integer not null, berth text not null references berths, mark text not null references vessels (mark),
    lengthOverall numeric not null, beam numeric not null, arrives text not null, departs text not null, power text, crew text not null, notes text, gateCode text not null);
  create table berthNights (berth text not null, night text not null, booking integer not null references bookings, primary key (berth, night));
  create table tariffs (plug text primary key, price numeric not null);
  create table powerOrders (id integer primary key autoincrement, mark text not null references vessels (mark), plug text not null, price text not null,
    amount integer not null, total text not null);
`;

/** Rows to begin with, by collection. */
export interface Seed {
  readonly owners: readonly { readonly id: number; readonly email: string; readonly creditLimit: number }[];
  readonly vessels: readonly {
    readonly id: number;
    readonly mark: string;
    readonly ownerId: number;
    readonly electric: boolean;
    readonly insuredUntil: string;
  }[];
  readonly berths: readonly Tables['berths'][];
  readonly tariffs: readonly Tables['tariffs'][];
  readonly bookings: readonly { readonly id: number; readonly berth: string; readonly arrives: string; readonly departs: string }[];
}

/** Opens the embedded database; a new file is given its tables and the demo data. */
export async function openStore(file: string, seed: Seed): Promise<Store> {
  const database = new Database(file);
  database.exec('pragma foreign_keys = on');
  const store = new Kysely<Tables>({ dialect: new SqliteDialect({ database: database as never }) });
  const { rows } = await sql<{ name: string }>`select name from sqlite_master where name = 'tariffs'`.execute(store);
  if (rows.length === 0) {
    database.exec(SCHEMA);
    await store.transaction().execute((transaction) => fill(transaction, seed));
  }
  return store;
}

const NAMES = ['Ida Sund', 'Bram Keel'];
const LENGTHS = [11.2, 9.5, 7.8];

async function fill(store: StoreTransaction, seed: Seed): Promise<void> {
  const owners = seed.owners.map((owner, at) => ({
    ...owner,
    name: NAMES[at] ?? `Owner ${owner.id}`,
    phone: null,
    born: null,
    phrase: null,
  }));
  await store.insertInto('owners').values(owners).execute();
  const vessels = seed.vessels.map((vessel, at) => {
    const size = { lengthOverall: LENGTHS[at] ?? 8, beam: 3.1 };
    return {
      ...vessel,
      ...size,
      electric: Number(vessel.electric),
      name: `Vessel ${vessel.mark.slice(3)}`,
      certificate: null,
      certificateType: null,
    };
  });
  await store.insertInto('vessels').values(vessels).execute();
  await store
    .insertInto('berths')
    .values([...seed.berths])
    .execute();
  await store
    .insertInto('tariffs')
    .values([...seed.tariffs])
    .execute();
  const [first] = vessels;
  for (const { id, ...stay } of seed.bookings) {
    const { mark = '', lengthOverall = 8, beam = 3 } = first ?? {};
    const crew = JSON.stringify([{ name: 'Ida Sund', born: '1988-02-29' }]);
    const row = { id, ...stay, ownerId: 1, mark, lengthOverall, beam, power: null, crew, notes: null, gateCode: '0000' };
    await store.insertInto('bookings').values(row).execute();
    await keepNights(store, id, stay);
  }
}

async function keepNights(
  store: StoreTransaction,
  booking: number,
  stay: { berth: string; arrives: string; departs: string },
): Promise<void> {
  const nights = nightsOf(stay).map((night) => ({ berth: stay.berth, night, booking }));
  if (nights.length > 0) await store.insertInto('berthNights').values(nights).execute();
}

function rowOf({ crew, power, notes, ...booking }: BerthBooking) {
  return { ...booking, power: power ?? null, notes: notes ?? null, crew: JSON.stringify(crew) };
}

/** Keeps an accepted booking and its nights; gives its number. */
export async function keepBooking(store: StoreTransaction, ownerId: number, booking: BerthBooking): Promise<number> {
  const { insertId } = await store
    .insertInto('bookings')
    .values({ ownerId, ...rowOf(booking) })
    .executeTakeFirstOrThrow();
  await keepNights(store, Number(insertId), booking);
  return Number(insertId);
}

/** Keeps a change to a booking, with its nights. */
export async function changeBooking(store: StoreTransaction, id: number, booking: BerthBooking): Promise<void> {
  await store.updateTable('bookings').set(rowOf(booking)).where('id', '=', id).execute();
  await store.deleteFrom('berthNights').where('booking', '=', id).execute();
  await keepNights(store, id, booking);
}

/** A booking as it was accepted, and whose it is. */
export async function findBooking(store: Store, id: number): Promise<{ ownerId: number; booking: Partial<BerthBooking> } | undefined> {
  const row = await store.selectFrom('bookings').selectAll().where('id', '=', id).executeTakeFirst();
  if (!row) return undefined;
  const { id: _id, ownerId, crew, ...booking } = row;
  return { ownerId, booking: { ...booking, crew: JSON.parse(crew) } as Partial<BerthBooking> };
}

export async function keepOwner(store: StoreTransaction, { name, contact, born }: OwnerSignUp, phrase: string): Promise<number> {
  const row = { name, email: contact.email ?? null, phone: contact.phone ?? null, born, phrase, creditLimit: 0 };
  return Number((await store.insertInto('owners').values(row).executeTakeFirstOrThrow()).insertId);
}

export async function keepVessel(store: StoreTransaction, ownerId: number, vessel: CertifiedRegistration): Promise<number> {
  const { mark, name, lengthOverall, beam, electric, insuredUntil, certificate } = vessel;
  const kept = { certificate: bytesOf(certificate), certificateType: certificate.mediaType };
  const row = { mark, name, lengthOverall, beam, insuredUntil, ownerId, electric: Number(electric), ...kept };
  return Number((await store.insertInto('vessels').values(row).executeTakeFirstOrThrow()).insertId);
}

/** The certificate of a vessel, and whose it is. */
export function findCertificate(store: Store, id: number) {
  return store.selectFrom('vessels').select(['ownerId', 'mark', 'certificate', 'certificateType']).where('id', '=', id).executeTakeFirst();
}

function bytesOf({ content }: Upload): Buffer | null {
  return content instanceof Uint8Array ? Buffer.from(content) : null;
}

export async function keepPowerOrder(
  store: StoreTransaction,
  { mark, plug, amount }: DeskPowerOrder,
  price: string,
  total: string,
): Promise<number> {
  return Number((await store.insertInto('powerOrders').values({ mark, plug, price, amount, total }).executeTakeFirstOrThrow()).insertId);
}

/** What everybody may see of the bookings. */
export function listBookings(store: Store) {
  return store
    .selectFrom('bookings')
    .select(['id', 'ownerId', 'berth', 'mark', 'arrives', 'departs'])
    .orderBy('arrives')
    .orderBy('berth')
    .execute();
}

export function listTariffs(store: Store) {
  return store.selectFrom('tariffs').selectAll().orderBy('plug').execute();
}

/** What a kilowatt-hour costs at a plug today. */
export async function priceAt(store: Store, plug: string): Promise<string> {
  return String((await store.selectFrom('tariffs').select('price').where('plug', '=', plug).executeTakeFirstOrThrow()).price);
}

export function listBerths(store: Store) {
  return store.selectFrom('berths').selectAll().orderBy('code').execute();
}
