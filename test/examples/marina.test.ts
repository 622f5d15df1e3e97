import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import * as marina from '@pellwick/marina';
import { memoryRecords } from 'jestril/memory';
import { blamesOf } from '../support/judging.ts';

const { berthBooking, ownerSignUp } = marina;
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
    email: 'Liv@Fjordmail.example ',
    born: '2013-04-20',
    passphrase: 'a long passphrase',
    passphraseAgain: 'a long passphrase',
    terms: true,
  };
  test.each([
    ['comes of age today', {}, []],
    ['tomorrow', { born: '2013-04-21' }, ['years-old /born']],
    ['taken e-mail in other case', { email: 'IDA@fjordmail.example' }, ['unique /email']],
    ['no contact', { email: undefined }, ['at-least-one-of /email /phone']],
    ['by phone', { email: undefined, phone: '+4712345678' }, []],
    ['short passphrase', { passphrase: 'short', passphraseAgain: 'other' }, ['length /passphrase']],
  ])('%s', async (_what, change, blames) => {
    const verdict = await ownerSignUp.judge({ ...owner, ...change }, { records, now });
    expect(blamesOf(verdict)).toEqual(blames);
    if (verdict.outcome === 'accepted') expect(verdict.value).not.toHaveProperty('passphraseAgain');
  });
});

interface Sampled {
  readonly id: string;
  readonly definition: { readonly reads: object; readonly run: (read: object, found: object, takes: object, at: object) => unknown };
  readonly samples: { readonly holds: readonly object[]; readonly fails: readonly object[] };
}
const sampled = Object.values(marina as object).filter((value): value is Sampled => Boolean((value as Sampled | undefined)?.samples));

test.each(sampled.map((rule) => [rule.id, rule] as const))('the samples of %s hold and fail', (_id, { definition, samples }) => {
  const run = (sample: object) => {
    const isRole = ([name]: [string, unknown]) => name in definition.reads;
    const parts = Object.entries(sample);
    return definition.run(
      Object.fromEntries(parts.filter(isRole)),
      Object.fromEntries(parts.filter((part) => !isRole(part))),
      { least: 1, most: 28 },
      {},
    );
  };
  expect(samples.holds.length * samples.fails.length).toBeGreaterThan(0);
  for (const sample of samples.holds) expect([sample, run(sample)]).toEqual([sample, true]);
  for (const sample of samples.fails) expect([sample, run(sample)]).toEqual([sample, false]);
});

test('the tour shows all three outcomes, a record rule, and no secret', () => {
  const { stdout, status } = spawnSync('node', ['node_modules/jiti/lib/jiti-cli.mjs', 'examples/marina/tour.ts'], { encoding: 'utf8' });
  expect(status).toBe(0);
  expect(stdout.match(/ACCEPTED|REJECTED|UNDECIDED/g)).toEqual(['ACCEPTED', 'REJECTED', 'UNDECIDED']);
  expect(stdout).toContain('A vessel of 14.5 m does not fit berth A1, which takes up to 12 m.');
  expect(stdout).not.toContain('4071');
});
