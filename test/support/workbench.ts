import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { join } from 'node:path';

/** `jestril serve` in a process of its own, on a port of its own. */
export async function served(module: string, args: readonly string[] = []) {
  const child: ChildProcess = spawn('node', [join(process.cwd(), 'bin/jestril.js'), 'serve', module, '--port', '0', ...args], {
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let said = '';
  const opening = await new Promise<string>((resolve, reject) => {
    const hear = (text: Buffer) => {
      said += text;
      const [found] = /http:\/\/[\d.]+:\d+\/\?key=[\w-]+/.exec(said) ?? [];
      if (found) resolve(found);
    };
    child.stdout?.on('data', hear);
    child.stderr?.on('data', (text) => {
      said += text;
    });
    child.once('exit', () => reject(new Error(`serve has ended: ${said}`)));
  });
  const { origin } = new URL(opening);
  const url = `${origin}/`;
  const entered = await fetch(opening, { redirect: 'manual', headers: { connection: 'close' } });
  const [cookie = ''] = entered.headers.getSetCookie().map((each) => each.split(';')[0] as string);
  const send = async (method: string, path: string, body?: unknown, headers: { [name: string]: string } = {}) => {
    const response = await fetch(`${url}${path}`, {
      method,
      // A connection that is kept may have been ended meanwhile, where a test waits for another process.
      headers: { connection: 'close', cookie, ...(body !== undefined && { 'content-type': 'application/json' }), ...headers },
      ...(body !== undefined && { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    const text = await response.text();
    return { status: response.status, headers: response.headers, text, json: () => JSON.parse(text) };
  };
  return {
    /** With its key, and without. */
    opening,
    url,
    cookie,
    said: () => said,
    send,
    call: async (name: string, argument: object) => (await send('POST', `api/call/${name}`, argument)).json(),
    cases: async () => (await send('GET', 'api/cases')).json(),
    /** Changes cases; those of a name that was read before as they were read. */
    change: async (changes: readonly object[]) => (await send('POST', 'api/cases', { changes })).json(),
    async close(): Promise<number | null> {
      child.removeAllListeners('exit');
      const ended = once(child, 'exit');
      child.kill('SIGINT');
      const [code] = await ended;
      return code as number | null;
    },
  };
}
export type Served = Awaited<ReturnType<typeof served>>;

/** A module for it: a condition with parts, look-ups in two rounds at most, a secret, and a rule that never ends for one name. */
export const MODULE = `
import { allOf, between, collection, condition, day, decimal, equals, flag, group, inOrder, intake, known, length, list, not, pattern, places, rule, same, text, unique, when, whole } from 'jestril';
import { de } from 'jestril/catalogues';
import { memoryRecords } from 'jestril/memory';
export const berths = collection('berths', { code: text, maxLength: decimal, open: flag }, { key: 'code' });
export const bookings = collection('bookings', { id: whole, mark: text, berth: text }, { key: 'id' });
export const records = memoryRecords({
  berths: [{ code: 'A1', maxLength: 12, open: true }, { code: 'B2', maxLength: 8, open: false }],
  bookings: [{ id: 1, mark: 'PW-0001', berth: 'A1' }],
});
export const fits = rule('quay/fits', { berth: text, length: decimal }, {
  looksUp: { found: berths.one({ code: 'berth' }, ['maxLength']) },
  holds: ({ length }, { found }) => length <= found.maxLength,
  message: 'A vessel of {length_value, number} m does not fit berth {berth_value}.',
  blames: ['length', 'berth'],
  samples: { holds: [{ berth: 'A1', length: 12, found: { maxLength: 12 } }], fails: [{ berth: 'A1', length: 12.01, found: { maxLength: 12 } }] },
});
const isOpen = condition('quay/is-open', { berth: text }, { looksUp: { found: berths.one({ code: 'berth' }, ['open']) }, holds: (_read, { found }) => found.open });
const ends = rule('quay/ends', { name: text }, { holds: ({ name }) => { while (name === 'forever') {} return true; }, message: 'no', blames: 'name' });
export const booking = intake('booking', {
  mark: text('Mark', pattern(/^[A-Z]{2}-\\d{4}$/, 'two capital letters, a dash and four digits')),
  length: decimal('Length', between(2, 40), places(2)),
  berth: text('Berth'),
  arrives: day('Arrival'),
  departs: day('Departure'),
  crew: list('Crew', group('Crew member', { name: text('Name', length({ max: 20 })), born: day('Born') })).orEmpty(),
  code: text('Gate code').secret(),
  codeAgain: text('Gate code again').secret().leftOut(),
  caller: group('Caller', { staff: flag('Staff') }).given(),
}, {
  storedIn: bookings,
  zone: 'Europe/Oslo',
  catalogues: [de],
  rules: [
    inOrder({ earlier: 'arrives', later: 'departs' }, { as: 'order' }),
    same({ first: 'code', second: 'codeAgain' }),
    fits({ berth: 'berth', length: 'length' }),
    unique(bookings, { mark: 'mark' }),
    ends({ name: 'crew.*.name' }),
    when(allOf(isOpen({ berth: 'berth' }), not(equals({ 'caller.staff': true }))), [known(berths, { code: 'berth' }, { as: 'berth-there' })]),
  ],
});
`;

/** A submission that it accepts. */
export const GOOD = {
  mark: 'PW-2040',
  length: 11.5,
  berth: 'A1',
  arrives: '2031-05-03',
  departs: '2031-05-05',
  crew: [{ name: 'Ida', born: '1990-01-01' }],
  code: '4711',
  codeAgain: '4711',
};

/** How its submissions are judged. */
export const SETTINGS = {
  locale: 'en',
  as: 'json',
  report: 'everything',
  records: 'module',
  now: '2031-05-01T10:00:00Z',
  given: '{ "caller": { "staff": false } }',
};

/** A submission to it as the page asks for it. */
export const asked = (submission: unknown, more: object = {}) => ({
  intake: 'booking',
  submission: typeof submission === 'string' ? submission : JSON.stringify(submission),
  settings: SETTINGS,
  ...more,
});
