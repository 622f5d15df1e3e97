import { createServer } from 'node:http';
import { spawn } from 'node:child_process';
import { getRequestListener } from '@hono/node-server';
import { Hono } from 'hono';
import autocannon from 'autocannon';
const BODY = JSON.stringify({ mark: 'PW-2040', lengthOverall: 11.2, berth: 'A1', arrives: '2031-05-14', departs: '2031-05-18', crew: [{ name: 'Ida Sund', born: '1988-02-29' }] });
if (process.argv[2] === 'serve') {
  const { day, decimal, group, inOrder, intake, length, list, pattern, text } = await import('jestril');
  const { receive } = await import('jestril/fetch');
  const fields = { mark: text('Mark', pattern(/^[A-Z]{2}-\d{4}$/, 'two letters and four digits')), lengthOverall: decimal('Length'), berth: text('Berth'), arrives: day('Arrival'), departs: day('Departure'), crew: list('Crew', group('Member', { name: text('Name', length({ max: 80 })), born: day('Born') })) };
  const local = intake('local', fields, { rules: [inOrder({ earlier: 'arrives', later: 'departs' })] });
  const hono = new Hono();
  const utf8 = new TextDecoder('utf-8', { fatal: true });
  hono.post('/bare', async (c) => { const { berth } = await c.req.json(); return c.json({ berth }); });
  hono.post('/headers', async (c) => { c.req.raw.headers.get('content-type'); const { berth } = await c.req.json(); return c.json({ berth }); });
  hono.post('/buffer', async (c) => { c.req.raw.headers.get('content-type'); const { berth } = JSON.parse(utf8.decode(new Uint8Array(await c.req.raw.arrayBuffer()))); return new Response(JSON.stringify({ berth }), { status: 200, headers: { 'content-type': 'application/json' } }); });
  hono.post('/text', async (c) => { c.req.raw.headers.get('content-type'); const { berth } = JSON.parse(await c.req.raw.text()); return new Response(JSON.stringify({ berth }), { status: 200, headers: { 'content-type': 'application/json' } }); });
  hono.post('/textjson', async (c) => { c.req.raw.headers.get('content-type'); const { berth } = JSON.parse(await c.req.raw.text()); return c.json({ berth }); });
  hono.post('/buffer2', async (c) => { c.req.raw.headers.get('content-type'); const { berth } = JSON.parse(Buffer.from(await c.req.raw.arrayBuffer()).utf8Slice()); return new Response(JSON.stringify({ berth }), { status: 200, headers: { 'content-type': 'application/json' } }); });
  hono.post('/judged', async (c) => { c.req.raw.headers.get('content-type'); const v = JSON.parse(utf8.decode(new Uint8Array(await c.req.raw.arrayBuffer()))); const { value } = await local.judge(v); return new Response(JSON.stringify({ berth: value.berth }), { status: 200, headers: { 'content-type': 'application/json' } }); });
  const h = receive(local, {}, ({ berth }) => ({ body: { berth } }));
  hono.post('/received', (c) => h(c.req.raw));
  const cpu = () => { const { user, system } = process.cpuUsage(); return user + system; };
  hono.get('/cpu', (c) => c.json(cpu()));
  const server = createServer(getRequestListener(hono.fetch)).listen(0, () => console.log(server.address().port));
} else {
  const server = spawn('node', [import.meta.filename, 'serve'], { stdio: ['ignore', 'pipe', 'inherit'] });
  const port = Number(String(await new Promise((r) => server.stdout.once('data', r))));
  const told = async () => (await fetch(`http://127.0.0.1:${port}/cpu`)).json();
  const cost = async (p, d) => { const b = await told(); const { requests } = await autocannon({ url: `http://127.0.0.1:${port}${p}`, method: 'POST', headers: { 'content-type': 'application/json' }, body: BODY, connections: 10, duration: d }); return ((await told()) - b) / requests.total; };
  const paths = ['/bare', '/headers', '/buffer', '/text', '/textjson', '/buffer2', '/judged', '/received'];
  for (const p of paths) await cost(p, 2);
  const all = paths.map(() => []);
  for (let i = 0; i < 4; i++) for (const [k, p] of paths.entries()) all[k].push(await cost(p, 1));
  const med = (l) => [...l].sort((a, b) => a - b)[l.length >> 1];
  for (const [k, p] of paths.entries()) console.log(p, med(all[k]).toFixed(1), med(all[k].map((v, i) => v / all[0][i])).toFixed(2));
  server.kill(); process.exit(0);
}
