// Random bodies against both doors, in a process of their own: valid ones with bytes flipped, cut, doubled, headers shuffled.
// `node bench/doors.mjs 1000000` says how many ran, what was answered, and how long the server was busy at most at a time.
import { spawn } from 'node:child_process';
import { connect } from 'node:net';
import { monitorEventLoopDelay } from 'node:perf_hooks';

const [, , cases = '20000', seed = '1'] = process.argv;

async function serve() {
  const { createServer } = await import('node:http');
  const { getRequestListener } = await import('@hono/node-server');
  const { default: express } = await import('express');
  const { Hono } = await import('hono');
  const { day, flag, group, intake, length, list, pattern, table, text, upload, uploadSize, whole } = await import('jestril');
  const express5 = await import('jestril/express');
  const fetch5 = await import('jestril/fetch');
  const stay = intake('stay', {
    berth: text('Berth', length({ max: 10 }), pattern(/^[A-Z]\d+$/, 'a letter and digits')),
    nights: whole('Nights'),
    arrives: day('Arrival'),
    power: flag('Power'),
    crew: list('Crew', group('Member', { name: text('Name'), born: day('Born').orAbsent() })).orEmpty(),
    more: table('More', text('Value')).orAbsent(),
    plan: upload('Plan', uploadSize({ max: 100_000 })).orAbsent(),
  });
  const page = ({ form, problem }) => `<p>${problem.title} ${form.value('berth')} ${form.entries.length}`;
  const options = { page, limits: { seconds: 2 } };
  const app = express().disable('x-powered-by');
  app.all(
    '/stay',
    express5.receive(stay, options, () => ({ location: '/x', body: {} })),
  );
  app.use((_error, _request, response, _next) => void response.status(500).end());
  const hono = new Hono();
  const received = fetch5.receive(stay, options, () => ({ location: '/x', body: {} }));
  hono.all('/stay', (context) => received(context.req.raw));
  hono.onError((_error, context) => context.body(null, 500));
  const ports = await Promise.all(
    [createServer(app), createServer(getRequestListener(hono.fetch))].map(
      (server) => new Promise((resolve) => server.listen(0, '127.0.0.1', () => resolve(server.address().port))),
    ),
  );
  const delay = monitorEventLoopDelay({ resolution: 5 });
  delay.enable();
  process.on('message', (asked) => {
    if (asked === 'begin') delay.reset();
    else process.send({ busy: delay.max / 1e6 - 5 });
  });
  // Nobody is left to ask.
  process.on('disconnect', () => process.exit());
  process.send({ ports });
}

async function attack(count, start) {
  const server = spawn(process.execPath, [import.meta.filename, '--serve'], { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] });
  let hasEnded = false;
  server.on('exit', () => {
    hasEnded = true;
  });
  const told = (name) => new Promise((resolve) => server.on('message', (message) => name in message && resolve(message[name])));
  const ports = await told('ports');
  const random = randomFrom(start);
  // What is compiled and looked up once is not what a body costs.
  for (let warm = 0; warm < 200; warm++) await answerTo(ports[warm % 2], mutated(random));
  server.send('begin');
  const answers = {};
  let sent = 0;
  await Promise.all(
    Array.from({ length: 24 }, async () => {
      while (sent < count && !hasEnded) {
        const port = ports[sent++ % ports.length];
        const bytes = mutated(random);
        const status = await answerTo(port, bytes);
        answers[status] = (answers[status] ?? 0) + 1;
        if (status === 500) console.error(`500 for ${JSON.stringify(bytes.toString('latin1'))}`);
      }
    }),
  );
  // A server that is still there answers as before.
  const alive = hasEnded ? [] : await Promise.all(ports.map((port) => answerTo(port, VALID[0])));
  const asked = told('busy');
  if (!hasEnded) server.send('end');
  const busy = hasEnded ? Number.NaN : await asked;
  server.kill();
  console.log(JSON.stringify({ cases: sent, hasEnded, alive, answers, busy: Math.round(busy) }));
}

function answerTo(port, bytes) {
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1');
    let head = '';
    socket.on('data', (data) => {
      head += data.toString('latin1');
    });
    socket.on('error', () => undefined);
    const start = performance.now();
    socket.on('close', () => {
      if (process.env.SLOW && performance.now() - start > 1000)
        console.error(port % 2, head.slice(0, 12), JSON.stringify(bytes.toString('latin1')).slice(0, 300));
      resolve(Number(/^HTTP\/1.1 (\d+)/.exec(head)?.[1] ?? 0));
    });
    socket.setTimeout(15_000, () => socket.destroy());
    socket.end(bytes);
  });
}

function message(type, body, more = []) {
  const bytes = Buffer.from(body);
  const head = ['POST /stay HTTP/1.1', 'host: x', 'connection: close', `content-type: ${type}`, `content-length: ${bytes.length}`, ...more];
  return Buffer.concat([Buffer.from(`${head.join('\r\n')}\r\n\r\n`), bytes]);
}
const part = (head, body) => `--b\r\ncontent-disposition: form-data; ${head}\r\n\r\n${body}\r\n`;
const good = { berth: 'A1', nights: 3, arrives: '2031-05-01', power: true, crew: [{ name: 'Ida' }], more: { a: 'b' } };
const VALID = [
  message('application/json', JSON.stringify(good)),
  message(
    'application/json; charset=utf-8',
    JSON.stringify({ ...good, crew: Array.from({ length: 50 }, () => ({ name: 'Bo', born: '1988-02-29' })) }),
  ),
  message('application/x-www-form-urlencoded', 'berth=A1&nights=3&arrives=2031-05-01&crew.0.name=Ida&crew[1][name]=Bo&more.a=b', [
    'accept: text/html',
  ]),
  message(
    'multipart/form-data; boundary=b',
    `${part('name="berth"', 'A1')}${part('name="nights"', '3')}${part('name="arrives"', '2031-05-01')}${part('name="plan"; filename="a.pdf"\r\ncontent-type: application/pdf', '%PDF-1.4 '.repeat(50))}--b--\r\n`,
    ['accept: text/html', 'accept-language: de;q=0.5, *', 'cookie: a=b; c=%20'],
  ),
];
const SPLICES = [
  '\0',
  '%',
  '%ff',
  '\r\n',
  '\r\n--b',
  '--b--',
  '"',
  '\\',
  '{',
  '[',
  '}',
  ']',
  ',',
  '__proto__',
  'constructor',
  '.',
  '..',
  '[0]',
  '[999999999]',
  '1e999',
  '-',
  '\ud83d',
  '=',
  '&',
  ';',
  'é',
  '\xff',
];

function mutated(random) {
  let bytes = Buffer.from(VALID[random(VALID.length)]);
  for (let times = 1 + random(4); times > 0; times--) {
    const at = random(bytes.length);
    const to = Math.min(bytes.length, at + 1 + random(random(2) === 0 ? 8 : 400));
    const splice = Buffer.from(SPLICES[random(SPLICES.length)], random(2) === 0 ? 'utf8' : 'latin1');
    const change = [
      () => [bytes.subarray(0, at), Buffer.from([random(256)]), bytes.subarray(at + 1)],
      () => [bytes.subarray(0, at), bytes.subarray(to)],
      () => [bytes.subarray(0, to), bytes.subarray(at)],
      () => [bytes.subarray(0, at), splice, bytes.subarray(at)],
      () => [bytes.subarray(0, at), ...Array.from({ length: random(300) }, () => splice), bytes.subarray(at)],
      () => [shuffled(bytes, random)],
      () => [bytes.subarray(0, at)],
    ][random(7)];
    bytes = Buffer.concat(change());
    if (bytes.length === 0) bytes = Buffer.from('\r\n');
  }
  // The length is that of the body, or it would hardly ever be read.
  return random(8) === 0 ? bytes : lengthened(bytes);
}

function headAndBody(bytes) {
  const end = bytes.indexOf('\r\n\r\n');
  return end < 0 ? undefined : [bytes.subarray(0, end).toString('latin1').split('\r\n'), bytes.subarray(end + 4)];
}

function lengthened(bytes) {
  const parts = headAndBody(bytes);
  if (!parts) return bytes;
  const [lines, body] = parts;
  const head = lines.map((line) => (/^content-length:/i.test(line) ? `content-length: ${body.length}` : line));
  return Buffer.concat([Buffer.from(`${head.join('\r\n')}\r\n\r\n`, 'latin1'), body]);
}

function shuffled(bytes, random) {
  const parts = headAndBody(bytes);
  if (!parts) return bytes;
  const [[first, ...lines], body] = parts;
  const from = VALID[random(VALID.length)];
  const [others] = headAndBody(from);
  const mixed = [...lines, ...others.slice(1)].filter(() => random(3) > 0).sort(() => random(3) - 1);
  return Buffer.concat([Buffer.from(`${[first, ...mixed].join('\r\n')}\r\n\r\n`, 'latin1'), body]);
}

/** Whole numbers below a limit, as a seed repeats them (mulberry32). */
function randomFrom(start) {
  let state = start >>> 0;
  return (limit) => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return Math.floor((((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296) * Math.max(1, limit));
  };
}

if (cases === '--serve') await serve();
else await attack(Number(cases), Number(seed));
