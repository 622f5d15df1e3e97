import { receive } from '../../../http/fetch.ts';
import { languagesOf } from '../../../http/receive/negotiate.ts';
import type { DoorAsked, DoorTold, HttpAnswer } from '../../../workbench/wire.ts';
import type { LoadedIntake } from '../../basics/loading.ts';
import { formFieldsOf } from './as-form.ts';
import type { Subject } from './judged.ts';
import type { Made } from './settings-of.ts';

/** The door before an intake, as an application would put it there; what is accepted it answers with 204, for want of a handler. */
function doorOf(intake: LoadedIntake, { stored, itself }: Subject, { options, given, records }: Made) {
  const { now, occasion } = options;
  return receive(
    intake,
    {
      now: () => now,
      origins: 'any',
      ...(records && { records }),
      ...(given && { given: () => given }),
      ...(occasion !== undefined && { occasion }),
      ...(stored && { amends: () => ({ stored, itself: (itself ?? {}) as { readonly [column: string]: string } }) }),
    } as never,
    () => undefined,
  );
}

/** What an HTTP client gets, in each language that the intake speaks. */
export async function answersTo(
  intake: LoadedIntake,
  subject: Subject,
  made: Made,
  doors: string,
  sent: string,
): Promise<readonly HttpAnswer[]> {
  const door = doorOf(intake, subject, made);
  const isForm = made.options.as === 'form';
  const method = subject.stored ? 'PATCH' : 'POST';
  const url = `${doors}/${encodeURIComponent(intake.name)}`;
  const type = isForm ? 'application/x-www-form-urlencoded' : 'application/json';
  const body = isForm ? String(new URLSearchParams(formFieldsOf(JSON.parse(sent)) as [string, string][])) : sent;
  return Promise.all(
    languagesOf([intake]).map(async (locale) => {
      const headers = { 'content-type': type, 'accept-language': locale };
      const told = await toldOf(await door(new Request(url, { method, headers, body })));
      return { locale, ...told, curl: curlFor(url, method, headers, body) };
    }),
  );
}

/** The answer to a request that came from outside the page. */
export async function answerAt(
  intake: LoadedIntake,
  subject: Subject,
  made: Made,
  { method, headers, body }: DoorAsked,
): Promise<DoorTold> {
  const hasBody = !['GET', 'HEAD'].includes(method);
  const request = new Request(`http://localhost/door/${intake.name}`, { method, headers, ...(hasBody && { body }) });
  return toldOf(await doorOf(intake, subject, made)(request));
}

async function toldOf(response: Response): Promise<DoorTold> {
  return { status: response.status, headers: [...response.headers], body: await response.text() };
}

/** Characters of a body that a command line is given. */
const MOST_TYPED = 20_000;

function curlFor(url: string, method: string, headers: { readonly [name: string]: string }, body: string): string {
  const lines = [`curl -i -X ${method} '${url}'`, ...Object.entries(headers).map(([name, value]) => `  -H '${name}: ${value}'`)];
  if (body.length > MOST_TYPED) return [...lines, '  --data-binary @submission.json'].join(' \\\n');
  let end = 'END';
  while (body.split('\n').includes(end)) end += '_';
  return `${[...lines, `  --data-binary @- <<'${end}'`].join(' \\\n')}\n${body}\n${end}`;
}
