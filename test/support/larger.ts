// Requests in which one thing is as large as a body may be: a value, a name, a number, a count.

export interface Odd {
  readonly what: string;
  readonly headers: { readonly [name: string]: string };
  readonly body: string;
}

const JSON_TYPE = { 'content-type': 'application/json' };
const FORM = { 'content-type': 'application/x-www-form-urlencoded' };
const PARTS = { 'content-type': 'multipart/form-data; boundary=b' };
/** Characters of a header that servers let through. */
const HEADER = 8000;

const many = (part: string, size: number) => part.repeat(Math.max(1, Math.floor(size / part.length)));
const numbered = (count: number, one: (index: number) => string, joint: string) =>
  Array.from({ length: count }, (_, index) => one(index)).join(joint);
const part = (head: string, body = 'x') => `--b\r\ncontent-disposition: form-data; ${head}\r\n\r\n${body}\r\n`;

/** @param fields names of a form's fields; @param rows names of its lists, with a field of a row; @param size characters of a body */
export function larger(fields: readonly string[], rows: readonly (readonly [list: string, field: string])[], size: number): Odd[] {
  const odd: Odd[] = [];
  const say = (what: string, headers: Odd['headers'], body: string) => odd.push({ what, headers, body });
  for (const field of fields) {
    for (const value of ['x', '%41', '%', '%20', '0', '2031-', '+', '%F0%9F%98%80'])
      say(`${field} of many ${value}`, FORM, `${field}=${many(value, size)}`);
    for (const more of ['.0', '[0]', '[', '[]', '.', '.__proto__', '~', '/'])
      say(`${field} with many ${more}`, FORM, `${field}${many(more, 480)}=x&a${many(more, size)}=x`);
    say(
      `${field} many times`,
      FORM,
      numbered(999, () => `${field}=x`, '&'),
    );
    for (const value of ['"a",', '1,', '[],', '{},', 'null,'])
      say(`${field} as a list of ${value}`, JSON_TYPE, `{"${field}":[${many(value, size)}1]}`);
    for (const value of ['z', '\\u0041', ' ', '\\ud800', '0', '{', '<', '&'])
      say(`${field} as a text of ${value}`, JSON_TYPE, `{"${field}":"${many(value, size)}"}`);
    say(`${field} as a number`, JSON_TYPE, `{"${field}":${many('9', size)}}`);
    say(`${field} as another`, JSON_TYPE, `{"${field}":1e${many('9', size)}}`);
    say(`${field} with many members`, JSON_TYPE, `{"${field}":{${numbered(999, (at) => `"${many('k', 80)}${at}":"x"`, ',')}}}`);
    say(`${field} in parts`, PARTS, `${numbered(90, () => part(`name="${field}"`, many('x', size / 100)), '')}--b--\r\n`);
  }
  for (const [list, field] of rows) {
    say(
      `rows of ${list}`,
      FORM,
      numbered(999, (at) => `${list}.${at}.${field}=x`, '&'),
    );
    say(
      `rows of ${list} with great numbers`,
      FORM,
      numbered(999, (at) => `${list}.${at * 900_000}.${field}=x`, '&'),
    );
    say(
      `rows of ${list} with long names`,
      FORM,
      numbered(190, (at) => `${list}.${at}.${many('y', 480)}=x`, '&'),
    );
  }
  say(
    'strangers',
    FORM,
    numbered(999, (at) => `n${at}=x`, '&'),
  );
  say('deep', JSON_TYPE, many('[', size));
  say('a long member', JSON_TYPE, `{"${many('k', size / 2)}":[${many('1,', size / 2)}1]}`);
  say('members', JSON_TYPE, `{${numbered(999, (at) => `"${many('k', 80)}${at}":1`, ',')}}`);
  for (const [header, value] of [
    ['accept', 'text/html,'],
    ['accept', 'text/html;q=0.1;'],
    ['accept-language', 'de;q=0.1,'],
    ['cookie', 'a=b;'],
    ['forwarded', 'host="'],
    ['forwarded', 'host=a '],
    ['x-forwarded-host', 'a,'],
    ['x-request-id', 'a'],
    ['origin', 'https://a'],
  ] as const)
    say(`${header} of ${value}`, { ...FORM, [header]: many(value, HEADER) }, 'a=b');
  for (const type of [
    `application/json;${many('a=b;', HEADER)}`,
    `application/${many('a+', HEADER)}json`,
    `application/json;${many(' ', HEADER)}x`,
    `multipart/form-data; boundary=${many('b', HEADER)}`,
  ])
    say(`type ${type.slice(0, 30)}`, { 'content-type': type }, '{}');
  say('parts', PARTS, `${many(part('name="n"'), size)}--b--\r\n`);
  say('a part with a long name', PARTS, `${part(`name="${many('n', size)}"`)}--b--\r\n`);
  say('a part with parameters', PARTS, `${part(`name="f"; ${many('a=b;', size)}; filename="x"`)}--b--\r\n`);
  say('a part with a long path', PARTS, `${part(`name="f"; filename="${many('../', size / 2)}x"`)}--b--\r\n`);
  say('nearly boundaries', PARTS, `${part('name="f"', many('\r\n--', size))}--b--\r\n`);
  return odd;
}

/** Milliseconds of the processor that something takes, in the thread that it runs in and those that clean up behind it. */
export async function processorTime(run: () => Promise<unknown>): Promise<number> {
  const before = process.cpuUsage();
  await run();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1000;
}
