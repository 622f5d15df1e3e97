const { day, decimal, group, inOrder, intake, length, list, pattern, text } = await import('jestril');
const { receive } = await import('jestril/fetch');
const fields = { mark: text('Mark', pattern(/^[A-Z]{2}-\d{4}$/, 'two letters and four digits')), lengthOverall: decimal('Length'), berth: text('Berth'), arrives: day('Arrival'), departs: day('Departure'), crew: list('Crew', group('Member', { name: text('Name', length({ max: 80 })), born: day('Born') })) };
const local = intake('local', fields, { rules: [inOrder({ earlier: 'arrives', later: 'departs' })] });
const BODY = JSON.stringify({ mark: 'PW-2040', lengthOverall: 11.2, berth: 'A1', arrives: '2031-05-14', departs: '2031-05-18', crew: [{ name: 'Ida Sund', born: '1988-02-29' }] });
const bytes = new TextEncoder().encode(BODY);
const H = new Map([['content-type', 'application/json'], ['content-length', String(bytes.length)], ['host', 'x']]);
class Fake { method = 'POST'; url = 'http://x/received'; headers = { get: (n) => H.get(n) ?? null }; bodyUsed = false; async arrayBuffer() { return bytes.buffer.slice(0, bytes.length); } }
const h = receive(local, {}, ({ berth }) => ({ body: { berth } }));
const utf8 = new TextDecoder('utf-8', { fatal: true });
const bare = async (r) => { r.headers.get('content-type'); const v = JSON.parse(utf8.decode(new Uint8Array(await r.arrayBuffer()))); const { value } = await local.judge(v); return new Response(JSON.stringify({ berth: value.berth }), { status: 200, headers: { 'content-type': 'application/json' } }); };
const run = async (f, n) => { for (let i = 0; i < n; i++) await f(new Fake()); };
globalThis.Response = class { constructor(b, o) { this.b = b; this.o = o; } };
for (const f of [bare, h]) await run(f, 50000);
for (let k = 0; k < 3; k++) for (const [n, f] of [['judged', bare], ['received', h]]) { const a = process.cpuUsage(); await run(f, 100000); const u = process.cpuUsage(a); console.log(n, ((u.user + u.system) / 100000).toFixed(2), 'us'); }
