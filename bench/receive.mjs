// What `receive` costs in front of an Express handler and of a Fetch handler (Hono), as CPU of the server for a request beside that of
// the bare handler, taken in turns; then a load of 2,000
// requests a second for half a minute, each with one look-up in embedded SQLite. `--load 5` shortens the load to 5 s.
import { spawn } from 'node:child_process';
import { parseArgs } from 'node:util';
import autocannon from 'autocannon';

const { values } = parseArgs({ options: { load: { type: 'string', default: '30' }, serve: { type: 'boolean' } } });
const BODY = JSON.stringify({
  mark: 'PW-2040',
  lengthOverall: 11.2,
  berth: 'A1',
  arrives: '2031-05-14',
  departs: '2031-05-18',
  crew: [{ name: 'Ida Sund', born: '1988-02-29' }],
});

if (values.serve) await serve();
else await measure();

async function serve() {
  const { createServer } = await import('node:http');
  const { getRequestListener } = await import('@hono/node-server');
  const { default: express } = await import('express');
  const { Hono } = await import('hono');
  const { collection, day, decimal, group, inOrder, intake, known, length, list, pattern, text } = await import('jestril');
  const { receive } = await import('jestril/express');
  const { receive: receiveByFetch } = await import('jestril/fetch');
  const { sqliteRecords } = await import('jestril/sql');
  const { Kysely, SqliteDialect } = await import('kysely');
  const { default: Database } = await import('libsql');
  const database = new Database(':memory:');
  database.exec("create table berths (code text primary key); insert into berths values ('A1')");
  const records = sqliteRecords(new Kysely({ dialect: new SqliteDialect({ database }) }));
  const berths = collection('berths', { code: text }, { key: 'code' });
  const fields = {
    mark: text('Mark', pattern(/^[A-Z]{2}-\d{4}$/, 'two letters and four digits')),
    lengthOverall: decimal('Length'),
    berth: text('Berth'),
    arrives: day('Arrival'),
    departs: day('Departure'),
    crew: list('Crew', group('Member', { name: text('Name', length({ max: 80 })), born: day('Born') })),
  };
  const ordered = inOrder({ earlier: 'arrives', later: 'departs' });
  const local = intake('local', fields, { rules: [ordered] });
  const stored = intake('stored', fields, { rules: [ordered, known(berths, { code: 'berth' })] });
  const app = express().disable('x-powered-by');
  const answer = ({ berth }, { response }) => void response.json({ berth });
  app.post('/bare', express.json(), (request, response) => answer(request.body, { response }));
  app.post('/received', receive(local, {}, answer));
  app.post('/parsed', express.json(), receive(local, {}, answer));
  app.post('/stored', receive(stored, { records }, answer));
  app.get('/memory', (_request, response) => {
    globalThis.gc?.();
    response.json(process.memoryUsage());
  });
  app.get('/cpu', (_request, response) => {
    const { user, system } = process.cpuUsage();
    response.json(user + system);
  });
  const hono = new Hono();
  const given = ({ berth }) => ({ body: { berth } });
  hono.post('/bare', async (context) => {
    const { berth } = await context.req.json();
    return context.json({ berth });
  });
  for (const [path, handler] of [
    ['/received', receiveByFetch(local, {}, given)],
    ['/stored', receiveByFetch(stored, { records }, given)],
  ])
    hono.post(path, (context) => handler(context.req.raw));
  const ports = [];
  for (const server of [createServer(app), createServer(getRequestListener(hono.fetch))])
    ports.push(await new Promise((resolve) => server.listen(0, '127.0.0.1', () => resolve(server.address().port))));
  console.log(JSON.stringify(ports));
}

async function measure() {
  const server = spawn('node', ['--expose-gc', import.meta.filename, '--serve'], { stdio: ['ignore', 'pipe', 'inherit'] });
  const [express, fetched] = JSON.parse(await new Promise((resolve) => server.stdout.once('data', resolve)));
  const url = (path, port = express) => `http://127.0.0.1:${port}${path}`;
  const shoot = (address, more) =>
    autocannon({ url: address, method: 'POST', headers: { 'content-type': 'application/json' }, body: BODY, connections: 10, ...more });
  const told = async (path) => (await fetch(url(path))).json();
  const memory = async () => (await told('/memory')).heapUsed / 1e6;
  /** Microseconds of the server for a request. */
  const cost = async (address, duration) => {
    const before = await told('/cpu');
    const { requests, errors, non2xx } = await shoot(address, { duration });
    if (errors + non2xx > 0) throw new Error(`${address}: ${errors} errors, ${non2xx} other answers`);
    return ((await told('/cpu')) - before) / requests.total;
  };
  const doors = [
    [
      'Express',
      express,
      [
        ['/bare', 'bare, with express.json()'],
        ['/received', 'receive'],
        ['/parsed', 'receive after express.json()'],
        ['/stored', 'receive with one look-up (SQLite)'],
      ],
    ],
    [
      'Fetch',
      fetched,
      [
        ['/bare', 'bare, with json()'],
        ['/received', 'receive'],
        ['/stored', 'receive with one look-up (SQLite)'],
      ],
    ],
  ];
  try {
    for (const [door, port, paths] of doors) {
      for (const [path] of paths) await cost(url(path, port), 2);
      const costs = paths.map(() => []);
      for (let round = 0; round < 5; round++) for (const [at, [path]] of paths.entries()) costs[at].push(await cost(url(path, port), 2));
      const median = (list) => [...list].sort((a, b) => a - b)[list.length >> 1];
      for (const [at, [, what]] of paths.entries()) {
        const ratio = median(costs[at].map((each, round) => each / costs[0][round]));
        console.log(`${door.padEnd(8)} ${what.padEnd(36)} ${ratio.toFixed(2)} (${median(costs[at]).toFixed(0)} µs)`);
      }
    }
    const before = await memory();
    const seconds = Number(values.load);
    const load = await shoot(url('/stored'), { duration: seconds, overallRate: 2000, connections: 50 });
    console.log(
      `${seconds} s at 2,000 a second: ${load['2xx']} answered, ${load.errors + load.timeouts + load.non2xx} errors, ` +
        `p50 ${load.latency.p50} ms, p99 ${load.latency.p99} ms; heap ${before.toFixed(0)} MB before, ${(await memory()).toFixed(0)} MB after`,
    );
  } finally {
    server.kill();
  }
}
