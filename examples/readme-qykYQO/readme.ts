import { collection, day, inOrder, intake, known, text, whole } from 'jestril';
import { receive } from 'jestril/fetch';
import { memoryRecords } from 'jestril/memory';

const berths = collection('berths', { code: text }, { key: 'code' });
const booking = intake(
  'booking',
  { berth: text('Berth'), arrives: day('Arrival'), departs: day('Departure'), guest: whole('Guest').given() },
  { rules: [inOrder({ earlier: 'arrives', later: 'departs' }), known(berths, { code: 'berth' })] },
);
const records = memoryRecords({ berths: [{ code: 'A1' }] });

const book = receive(
  booking,
  {
    records,
    caller: (request) => (request.headers.get('authorization') === 'Bearer ida' ? { id: 1 } : undefined),
    given: ({ caller }) => ({ guest: caller.id }), // never read from the body
  },
  ({ berth, arrives }, { caller }) => ({ location: '/bookings/7', body: { id: 7, berth, arrives, by: caller.id } }),
);

const send = (body: string, more: object = {}) =>
  book(
    new Request('https://pellwick.example/bookings', {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: 'Bearer ida', ...more },
      body,
    }),
  );
const tell = async (response: Response) => console.log(response.status, await response.text());

await tell(await send('{"berth":"A1","arrives":"2031-05-14","departs":"2031-05-18"}'));
await tell(await send('{"berth":"Z9","arrives":"2031-05-14","departs":"2031-05-12"}'));
await tell(await send('{"berth":"A1"', { authorization: '' }));
await tell(await send('{"berth":"A1","berth":"B1"}'));

import express from 'express';
import { receive as receiveByExpress } from 'jestril/express';

const app = express();
app.post(
  '/bookings',
  receiveByExpress(booking, { records, given: () => ({ guest: 1 }) }, ({ berth }, { response }) => {
    response.status(201).json({ berth }); // or return { location, body }, as above
  }),
);

const list = receive(
  {
    params: intake('where', { berth: text('Berth') }),
    query: intake('paging', { page: whole('Page').orElse(1) }),
    headers: intake('heads', { 'if-none-match': text('Version').orAbsent() }),
  },
  {},
  ({ params, query }) => ({ body: [params.berth, query.page] }),
);
await tell(await list(new Request('https://pellwick.example/berths/A1?page=2'), { berth: 'A1' }));
await tell(await list(new Request('https://pellwick.example/berths/A1?page=two'), { berth: 'A1' }));

import { rule } from 'jestril';
import { sqliteRecords } from 'jestril/sql';
import { Kysely, SqliteDialect, sql } from 'kysely';
import Database from 'libsql';

const db = new Kysely<{ stays: { id?: number; berth: string; mark: string } }>({
  dialect: new SqliteDialect({ database: new Database(':memory:') as never }),
});
await sql`create table stays (id integer primary key, berth text not null, mark text not null)`.execute(db);

const stays = collection('stays', { id: whole, berth: text, mark: text }, { key: 'id' });
const twoAtMost = rule('team/two-at-most', { berth: text }, {
  looksUp: { there: stays.count({ berth: 'berth' }) },
  holds: (_, { there }) => there < 2,
  message: 'At {berth_value} there are two already.',
  blames: 'berth',
});
const stay = intake('stay', { berth: text('Berth'), mark: text('Mark') }, {
  storedIn: stays,
  rules: [twoAtMost({ berth: 'berth' })],
});
const moor = receive(
  stay,
  {
    records: sqliteRecords(db),
    store: async (value, { transaction }) => (await transaction.insertInto('stays').values(value).executeTakeFirst()).insertId,
  },
  (_, { stored: id }) => ({ location: `/stays/${id}`, body: { id: Number(id) } }),
);
const ask = (at: number) =>
  new Request('https://pellwick.example/stays', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ berth: 'A1', mark: `PW-${at}` }),
  });
const twelve = await Promise.all(Array.from({ length: 12 }, (_, at) => moor(ask(at))));
const places = await db.selectFrom('stays').select('mark').execute();
console.log(twelve.filter(({ status }) => status === 201).length, 'moored,', places.length, 'stored');
await tell(twelve.find(({ status }) => status === 422) as Response);

const shown = intake('shown', { id: whole('Number'), berth: text('Berth') });
const find = receive({ query: intake('none', {}) }, { sends: shown }, () => ({ body: { id: 7, berth: 'A1', gateCode: '4071' } }));
await tell(await find(new Request('https://pellwick.example/bookings/7')));

import { bindForm } from 'jestril/browser';

function start(form: HTMLFormElement) {
  return bindForm(form, booking, {
    given: { guest: 0 }, // what the page knows; the server supplies its own
    judgeAt: '/bookings/check', // a route that judges and stores nothing: receive(booking, options, () => ({}))
    send: (data, signal) => fetch('/bookings', { method: 'POST', body: data, signal }),
    onAnswer: (response) => void (response.ok && location.assign('/')),
  });
}
console.log(typeof start);

import { problemOf, receive as receivePlain, strictJson } from 'jestril/request';

const answered = receivePlain(booking, { records, given: () => ({ guest: 1 }) }, ({ berth }) => ({ status: 201, body: { berth } }));
const plain = await answered({
  method: 'POST',
  url: '/bookings',
  headers: { 'Content-Type': 'application/json' }, // in any case
  body: '{"berth":"A1","arrives":"2031-05-14","departs":"2031-05-18"}', // or bytes as they come, or parsed: { … }
});
console.log(plain.status, plain.headers, plain.body);

async function onMessage(text: string) {
  const verdict = await booking.judge(strictJson(text), { records, given: { guest: 1 } });
  if (verdict.outcome !== 'accepted') return console.log(JSON.stringify(problemOf(verdict).findings));
  console.log(verdict.value.berth);
}
await onMessage('{"berth":"Z9","arrives":"2031-05-14","departs":"2031-05-18"}');
