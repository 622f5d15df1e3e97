import { readFileSync } from 'node:fs';
import { memoryRecords } from 'jestril/memory';
import type { Subject } from 'jestril/proof';
import { berthBooking, ownerSignUp, powerOrder, vesselRegistration } from './index.ts';

// What the marina's intakes accept, and what each of their rules rejects.

const read = (file: string) => readFileSync(new URL(`./data/${file}`, import.meta.url), 'utf8');
const rows = JSON.parse(read('records.json')) as { readonly owners: readonly object[] };
const options = { records: memoryRecords(rows as never), now: new Date('2031-04-20T08:00:00Z') };
/** One owner wrote an address with capital letters, before they were folded. */
const older = memoryRecords({ ...rows, owners: [...rows.owners, { id: 3, email: 'Nora@Keelpost.example' }] } as never);

/** The good submission with something changed, and the uses that must then reject it. */
const change =
  (good: object) =>
  (changed: object, ...by: string[]) => ({ submission: { ...good, ...changed }, by });

const booking = JSON.parse(read('bookings.ndjson').split('\n')[0] as string) as object;
const adult = { name: 'Ida Sund', born: '1988-02-29' };
const book = change(booking);
const signUp = {
  name: 'Liv Aas',
  contact: { phone: '+4712345678' },
  born: '2013-04-20',
  passphrase: 'twelve gulls',
  passphraseAgain: 'twelve gulls',
  terms: true,
};
const sign = change(signUp);
const vessel = {
  mark: 'PW-7000',
  name: 'Tern',
  lengthOverall: 6,
  beam: 4,
  electric: false,
  insuredUntil: '2031-04-20',
  skipper: { email: 'liv@fjordmail.example' },
};
const register = change(vessel);
const order = { mark: 'PW-2040', plug: '16A', price: '0.50', amount: 20, limit: '10', contact: { email: 'liv@fjordmail.example' } };
const power = change(order);

export const proofs: readonly Subject[] = [
  {
    intake: berthBooking,
    options: { ...options, given: { caller: { id: 1, staff: false } } },
    accepts: [
      booking,
      { ...booking, lengthOverall: 12 },
      { ...booking, berth: 'C4', lengthOverall: 2, beam: 0.01 },
      { ...booking, lengthOverall: 5.4 },
      { ...booking, departs: '2031-06-11' },
      { ...booking, departs: '2031-05-15' },
      { ...booking, arrives: '2031-04-20', departs: '2031-05-10' },
      { ...booking, mark: 'PW-3177', arrives: '2031-06-08', departs: '2031-06-10', power: '32A' },
      { ...booking, notes: 'x'.repeat(500) },
      { ...booking, crew: new Array(12).fill({ ...adult, name: 'x'.repeat(80) }) },
      { ...booking, berth: 'B1', lengthOverall: 18, arrives: '2031-05-20', departs: '2031-06-01' },
    ],
    rejects: [
      book({ mark: 'PW-20400' }, 'pattern@mark'),
      book({ mark: 'SPW-2040' }, 'pattern@mark'),
      book({ lengthOverall: 40 }, 'marina/fits-berth@lengthOverall'),
      book({ lengthOverall: 1.99 }, 'between@lengthOverall'),
      book({ lengthOverall: 40.01 }, 'between@lengthOverall'),
      book({ lengthOverall: 11.255 }, 'places@lengthOverall'),
      book({ beam: 0 }, 'above@beam'),
      book({ beam: 3.605 }, 'places@beam'),
      book({ lengthOverall: 5.39 }, 'marina/slender@beam'),
      book({ arrives: '2031-04-19', departs: '2031-04-21' }, 'not-before@arrives'),
      book({ crew: [{ ...adult, name: 'x'.repeat(81) }] }, 'length@crew.*.name'),
      book({ crew: [] }, 'length@crew'),
      book({ crew: new Array(13).fill(adult) }, 'length@crew'),
      book({ notes: 'x'.repeat(501) }, 'length@notes'),
      book({ gateCode: '40710', gateCodeAgain: '40710' }, 'pattern@gateCode'),
      book({ terms: false }, 'is-true@terms'),
      book({ departs: '2031-05-14' }, 'in-order@departs', 'stay-length'),
      book({ departs: '2031-06-12' }, 'stay-length'),
      book({ gateCodeAgain: '4072' }, 'same@gateCodeAgain'),
      book({ lengthOverall: 12.01 }, 'marina/fits-berth@lengthOverall'),
      book({ arrives: '2031-05-13' }, 'marina/berth-free@berth'),
      book({ arrives: '2031-05-05', departs: '2031-05-11' }, 'marina/berth-free@berth'),
      book({ mark: 'PW-3177', arrives: '2031-06-08', departs: '2031-06-11', power: '16A' }, 'marina/insured-until@departs'),
      book({ mark: 'PW-3177', arrives: '2031-06-08', departs: '2031-06-10' }, 'needed@power'),
      book({ crew: [{ ...adult, born: '2013-05-15' }] }, 'marina/one-adult@crew'),
    ],
    // A stay that is cut short is not in its own way.
    changes: [
      {
        stored: { ...booking, arrives: '2031-05-10', departs: '2031-05-14' },
        change: { departs: '2031-05-13' },
        options: { itself: { id: 501 } },
      },
    ],
  },
  {
    intake: berthBooking,
    options: { ...options, given: { caller: { id: 1, staff: true } } },
    accepts: [{ ...booking, departs: '2031-08-01' }],
    rejects: [],
  },
  {
    intake: ownerSignUp,
    options: { ...options, records: older },
    accepts: [signUp, { ...signUp, passphrase: 'x'.repeat(128), passphraseAgain: 'x'.repeat(128) }, { ...signUp, name: 'x'.repeat(80) }],
    rejects: [
      sign({ name: 'x'.repeat(81) }, 'length@name'),
      sign({ contact: {} }, 'at-least-one-of@contact.email'),
      sign({ contact: { email: 'liv' } }, 'email@contact.email'),
      sign({ contact: { phone: '12345678' } }, 'phone@contact.phone'),
      sign({ contact: { email: 'IDA@fjordmail.example' } }, 'unique@contact.email'),
      sign({ contact: { email: 'nora@keelpost.example' } }, 'unique@contact.email'),
      sign({ born: '2013-04-21' }, 'years-old@born'),
      sign({ passphrase: 'eleven gull', passphraseAgain: 'eleven gull' }, 'length@passphrase'),
      sign({ passphrase: 'x'.repeat(129), passphraseAgain: 'x'.repeat(129) }, 'length@passphrase'),
      sign({ passphrase: 'Pellwick gulls', passphraseAgain: 'Pellwick gulls' }, 'without@passphrase'),
      sign({ passphraseAgain: 'twelve Gulls' }, 'same@passphraseAgain'),
      sign({ terms: false }, 'is-true@terms'),
    ],
    changes: [
      {
        stored: { ...signUp, contact: { email: 'sund@fjordmail.example', phone: null } },
        change: { contact: { email: 'ida@fjordmail.example' } },
        options: { itself: { id: 1 } },
      },
    ],
  },
  {
    intake: vesselRegistration,
    options,
    accepts: [
      vessel,
      { ...vessel, lengthOverall: 40, beam: 0.01 },
      { ...vessel, lengthOverall: 2, beam: 1 },
      { ...vessel, name: 'x'.repeat(60) },
    ],
    rejects: [
      register({ mark: 'pw-7000' }, 'pattern@mark'),
      register({ mark: 'SPW-7000' }, 'pattern@mark'),
      register({ mark: 'PW-70000' }, 'pattern@mark'),
      register({ mark: 'PW-2040' }, 'unique@mark'),
      register({ name: 'x'.repeat(61) }, 'length@name'),
      register({ lengthOverall: 40.01 }, 'between@lengthOverall'),
      register({ lengthOverall: 1.99, beam: 1 }, 'between@lengthOverall'),
      register({ lengthOverall: 6.001 }, 'places@lengthOverall'),
      register({ beam: 0 }, 'above@beam'),
      register({ beam: 3.999 }, 'places@beam'),
      register({ lengthOverall: 5.99 }, 'marina/slender@beam'),
      register({ insuredUntil: '2031-04-19' }, 'not-before@insuredUntil'),
      register({ skipper: {} }, 'at-least-one-of@skipper.email'),
      register({ skipper: { email: 'liv@' } }, 'email@skipper.email'),
      register({ skipper: { phone: '+0' } }, 'phone@skipper.phone'),
    ],
    changes: [{ stored: vessel, change: { mark: 'PW-2040' }, options: { itself: { id: 11 } } }],
  },
  {
    intake: powerOrder,
    options,
    accepts: [
      order,
      { ...order, plug: '32A' },
      { ...order, price: '0.01', amount: 1, limit: '1' },
      { ...order, price: '0.0200', amount: 500 },
    ],
    rejects: [
      power({ mark: 'PW-20' }, 'pattern@mark'),
      power({ mark: 'SPW-2040' }, 'pattern@mark'),
      power({ mark: 'PW-20400' }, 'pattern@mark'),
      power({ mark: 'PW-9999' }, 'known@mark'),
      power({ price: '0.0099' }, 'at-least@price'),
      power({ price: '0.01001' }, 'places@price'),
      power({ amount: 0 }, 'between@amount'),
      power({ amount: 501, price: '0.01' }, 'between@amount'),
      power({ amount: 21 }, 'within-limit'),
      power({ limit: '0.99', amount: 1 }, 'at-least@limit'),
      power({ limit: '10.001' }, 'places@limit'),
      power({ contact: {} }, 'at-least-one-of@contact.email'),
      power({ contact: { email: 'liv' } }, 'email@contact.email'),
      power({ contact: { phone: '1' } }, 'phone@contact.phone'),
    ],
  },
];
