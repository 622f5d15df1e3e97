import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import * as marina from '@pellwick/marina';
import { describeProof } from 'jestril/jest';
import { memoryRecords } from 'jestril/memory';
import { prove, type Subject } from 'jestril/proof';
import { proofs as ofCases } from '../../examples/marina/index.cases.proof.ts';
import { proofs } from '../../examples/marina/proof.ts';
import { blamesOf } from '../support/judging.ts';

const { berthBooking, ownerSignUp, staffPowerOrder } = marina;
const read = (file: string) => readFileSync(`examples/marina/data/${file}`, 'utf8');
const records = memoryRecords(JSON.parse(read('records.json')));
const now = new Date('2031-04-20T08:00:00Z');
const good = JSON.parse(read('bookings.ndjson').split('\n')[0] as string);
const guest = { caller: { id: 1, staff: false } };

describe('a berth booking', () => {
  const long = { departs: '2031-06-30', arrives: '2031-05-14' };
  test.each([
    ['arriving on the day that another departs', {}, []],
    ['arriving the night before', { arrives: '2031-05-13' }, ['marina/berth-free /berth /arrives /departs']],
    ['for 29 nights', { departs: '2031-06-12' }, ['marina/stay-of /departs']],
    ['for 28 nights', { departs: '2031-06-11' }, []],
    ['departing before it arrives', { departs: '2031-05-13' }, ['in-order /departs', 'marina/stay-of /departs']],
    ['too long a vessel', { lengthOverall: 12.01 }, ['marina/fits-berth /lengthOverall /berth']],
    ['as long as the berth', { lengthOverall: 12 }, []],
    ['of a millimetre too precise', { lengthOverall: 11.255 }, ['places /lengthOverall']],
    ['an unknown berth', { berth: 'Z9' }, ['known /berth']],
    ['an unknown vessel', { mark: 'PW-9999' }, ['known /mark']],
    ['insured to the last day', { mark: 'PW-3177', arrives: '2031-06-08', departs: '2031-06-10', power: '16A' }, []],
    [
      'insured for too short',
      { mark: 'PW-3177', arrives: '2031-06-08', departs: '2031-06-11', power: '16A' },
      ['marina/insured-until /departs /mark'],
    ],
    ['electric, without power', { mark: 'PW-3177', arrives: '2031-06-08', departs: '2031-06-10' }, ['needed /power']],
    ['yesterday', { arrives: '2031-04-19', departs: '2031-04-21' }, ['not-before /arrives']],
    ['only children', { crew: [{ name: 'A', born: '2013-05-15' }] }, ['marina/one-adult /crew']],
    ['someone of age on the day', { crew: [{ name: 'A', born: '2013-05-14' }] }, []],
    ['nobody', { crew: [] }, ['length /crew']],
    ['another gate code again', { gateCodeAgain: '4072' }, ['same /gateCodeAgain']],
    ['without the rules', { terms: false }, ['is-true /terms']],
  ])('%s', async (_what, change, blames) => {
    expect(blamesOf(await berthBooking.judge({ ...good, ...change }, { records, now, given: guest }))).toEqual(blames);
  });

  test('staff may stay longer', async () => {
    const staff = { caller: { id: 1, staff: true } };
    expect(blamesOf(await berthBooking.judge({ ...good, ...long, berth: 'A2' }, { records, now, given: staff }))).toEqual([]);
    expect(blamesOf(await berthBooking.judge({ ...good, ...long, berth: 'A2' }, { records, now, given: guest }))).toEqual([
      'marina/stay-of /departs',
    ]);
  });
});

describe('an owner’s sign-up', () => {
  const owner = {
    name: 'Liv Aas',
    contact: { email: 'Liv@Fjordmail.example ' },
    born: '2013-04-20',
    passphrase: 'a long passphrase',
    passphraseAgain: 'a long passphrase',
    terms: true,
  };
  test.each([
    ['comes of age today', {}, []],
    ['tomorrow', { born: '2013-04-21' }, ['years-old /born']],
    ['taken e-mail in other case', { contact: { email: 'IDA@fjordmail.example' } }, ['unique /contact/email']],
    ['no contact', { contact: {} }, ['at-least-one-of /contact/email /contact/phone']],
    ['by phone', { contact: { phone: '+4712345678' } }, []],
    ['short passphrase', { passphrase: 'short', passphraseAgain: 'other' }, ['length /passphrase']],
  ])('%s', async (_what, change, blames) => {
    const verdict = await ownerSignUp.judge({ ...owner, ...change }, { records, now });
    expect(blamesOf(verdict)).toEqual(blames);
    if (verdict.outcome === 'accepted') expect(verdict.value).not.toHaveProperty('passphraseAgain');
  });
});

// What was kept in the workbench.
for (const subject of ofCases) describeProof(subject, { gapsAllowed: 'all' });
for (const subject of proofs.filter((each) => 'rejects' in each && each.rejects.length > 0)) describeProof(subject);

test('staff may stay longer: proved by a submission of its own', async () => {
  const [, staff] = proofs;
  expect(await prove(staff as Subject)).toMatchObject({ subject: 'berth-booking', isProven: true });
});

test('an intake that extends another has its fields and rules', async () => {
  const order = { mark: 'PW-2040', plug: '16A', price: '0.50', amount: 21, limit: '10', contact: { email: 'a@b.example' }, orderedBy: 7 };
  const verdict = await staffPowerOrder.judge(order, { records });
  expect(blamesOf(verdict)).toEqual(['total-at-most /price /amount']);
  expect((await staffPowerOrder.judge({ ...order, amount: 20 }, { records })).outcome).toBe('accepted');
});

test('the tour shows all three outcomes, a record rule, and no secret', () => {
  const { stdout, status } = spawnSync('node', ['node_modules/jiti/lib/jiti-cli.mjs', 'examples/marina/tour.ts'], { encoding: 'utf8' });
  expect(status).toBe(0);
  expect(stdout.match(/ACCEPTED|REJECTED|UNDECIDED/g)).toEqual(['ACCEPTED', 'REJECTED', 'UNDECIDED']);
  expect(stdout).toContain('A vessel of 14.5 m does not fit berth A1, which takes up to 12 m.');
  expect(stdout).not.toContain('4071');
});
