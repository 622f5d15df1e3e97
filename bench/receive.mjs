// What `receive` costs in front of an Express handler, as a ratio of throughputs taken in turns; then a load of 2,000
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
  const { default: express } = await import('express');
  const { collection, day, decimal, group, inOrder, intake, known, length, list, pattern, text } = await import('jestril');
  const { receive } = await import('jestril/express');
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
  const server = app.listen(0, '127.0.0.1', () => console.log(server.address().port));
}

async function measure() {
  const server = spawn('node', ['--expose-gc', import.meta.filename, '--serve'], { stdio: ['ignore', 'pipe', 'inherit'] });
  const port = Number(await new Promise((resolve) => server.stdout.once('data', resolve)));
  const url = (path) => `http://127.0.0.1:${port}${path}`;
  const shoot = (path, more) =>
    autocannon({ url: url(path), method: 'POST', headers: { 'content-type': 'application/json' }, body: BODY, connections: 10, ...more });
  const memory = async () => (await (await fetch(url('/memory'))).json()).heapUsed / 1e6;
  try {
    for (const path of ['/bare', '/received', '/parsed', '/stored']) await shoot(path, { duration: 2 });
    const rates = { '/bare': [], '/received': [], '/parsed': [], '/stored': [] };
    for (let round = 0; round < 5; round++)
      for (const path of Object.keys(rates)) {
        const { requests, errors, non2xx } = await shoot(path, { duration: 2 });
        if (errors + non2xx > 0) throw new Error(`${path}: ${errors} errors, ${non2xx} other answers`);
        rates[path].push(requests.average);
      }
    const median = (list) => [...list].sort((a, b) => a - b)[list.length >> 1];
    const ratio = (path) => median(rates[path].map((rate, round) => rate / rates['/bare'][round]));
    console.log(`bare Express handler, with express.json()   1.00 (${median(rates['/bare']).toFixed(0)} requests a second)`);
    for (const [path, what] of [
      ['/received', 'receive, which reads the body itself'],
      ['/parsed', 'receive after express.json()'],
      ['/stored', 'receive with one look-up (SQLite)'],
    ])
      console.log(`${what.padEnd(43)} ${ratio(path).toFixed(2)}`);
    const before = await memory();
    const seconds = Number(values.load);
    const load = await shoot('/stored', { duration: seconds, overallRate: 2000, connections: 50 });
    console.log(
      `${seconds} s at 2,000 a second: ${load['2xx']} answered, ${load.errors + load.timeouts + load.non2xx} errors, ` +
        `p50 ${load.latency.p50} ms, p99 ${load.latency.p99} ms; heap ${before.toFixed(0)} MB before, ${(await memory()).toFixed(0)} MB after`,
    );
  } finally {
    server.kill();
  }
}
