import type { DoorTold } from '../../../workbench/wire/requests.ts';

/** A request that is copied out of the page. */
export interface CopiedRequest {
  readonly method: string;
  readonly url: string;
  readonly headers: { readonly [name: string]: string };
  readonly body: string;
}

/** Characters of a body that a command line is given. */
const MOST_TYPED = 20_000;

/** A request as a command for a shell (POSIX). */
export function curlOf({ method, url, headers, body }: CopiedRequest): string {
  const lines = [`curl -i -X ${method} '${quoted(url)}'`, ...Object.entries(headers).map(([name, value]) => `  -H '${name}: ${value}'`)];
  if (body.length > MOST_TYPED) return [...lines, '  --data-binary @submission.json'].join(' \\\n');
  // Text below a command ends with a line break, which a form would take for a part of its last value.
  if (!body.includes('\n')) return [...lines, `  --data-raw '${quoted(body)}'`].join(' \\\n');
  let end = 'END';
  while (body.split('\n').includes(end)) end += '_';
  return `${[...lines, `  --data-binary @- <<'${end}'`].join(' \\\n')}\n${body}\n${end}`;
}

function quoted(text: string): string {
  return text.replaceAll("'", "'\\''");
}

/** A request and its answer as an entry of an HTTP archive (HAR 1.2), where the sizes that nobody has measured are -1. */
export function harOf({ method, url, headers, body }: CopiedRequest, answer: DoorTold, begun: Date): string {
  const listed = (all: readonly (readonly [string, string])[]) => all.map(([name, value]) => ({ name, value }));
  const typeOf = (all: readonly (readonly [string, string])[]) => all.find(([name]) => name === 'content-type')?.[1] ?? '';
  const sent = Object.entries(headers);
  const more = { httpVersion: 'HTTP/1.1', cookies: [], headersSize: -1 };
  const entry = {
    startedDateTime: begun.toISOString(),
    time: 0,
    request: {
      method,
      url,
      ...more,
      headers: listed(sent),
      queryString: [],
      postData: { mimeType: typeOf(sent), text: body },
      bodySize: Buffer.byteLength(body),
    },
    response: {
      status: answer.status,
      statusText: '',
      ...more,
      headers: listed(answer.headers),
      content: { size: Buffer.byteLength(answer.body), mimeType: typeOf(answer.headers), text: answer.body },
      redirectURL: '',
      bodySize: Buffer.byteLength(answer.body),
    },
    cache: {},
    timings: { send: 0, wait: 0, receive: 0 },
  };
  return JSON.stringify(entry, null, 2);
}
