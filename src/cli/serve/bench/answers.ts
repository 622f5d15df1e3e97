import { receive } from '../../../http/fetch.ts';
import { languagesOf } from '../../../http/receive/negotiate.ts';
import type { DoorAsked, DoorTold, HttpAnswer } from '../../../workbench/wire/requests.ts';
import type { LoadedIntake } from '../../basics/loading.ts';
import { curlOf, harOf } from '../requests/copied.ts';
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
  { doors, submission: sent, address = '' }: { readonly doors: string; readonly submission: string; readonly address?: string },
): Promise<readonly HttpAnswer[]> {
  const door = doorOf(intake, subject, made);
  const { options } = made;
  const isForm = options.as === 'form';
  const method = subject.stored ? 'PATCH' : 'POST';
  const own = `${doors}/${encodeURIComponent(intake.name)}`;
  const url = address.trim() === '' ? own : address.trim();
  const type = isForm ? 'application/x-www-form-urlencoded' : 'application/json';
  const body = isForm ? String(new URLSearchParams(formFieldsOf(JSON.parse(sent)) as [string, string][])) : sent;
  return Promise.all(
    languagesOf([intake]).map(async (locale) => {
      const headers = { 'content-type': type, 'accept-language': locale };
      const told = await toldOf(await door(new Request(own, { method, headers, body })));
      const copied = { method, url, headers, body };
      return { locale, ...told, curl: curlOf(copied), har: harOf(copied, told, options.now) };
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
