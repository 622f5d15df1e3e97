import { applyEdits, format } from 'jsonc-parser';
import { formObject } from '../../../forms/form.ts';
import type { Pasted } from '../../../workbench/wire/requests.ts';
import { Misuse } from '../../basics/misuse.ts';
import { readJson } from '../../reading/json.ts';
import { curlRequest } from './curl.ts';
import { harRequest } from './har.ts';
import type { SeenRequest } from './request.ts';

/**
 * The submission of a request that a person has copied: a command of curl, or an entry of an HTTP archive. Its headers are left out.
 *
 * @throws Misuse for what is neither, or has no body that can be read
 */
export async function pasted(text: string): Promise<Pasted> {
  const request = text.trimStart().startsWith('{') ? harRequest(jsonIn(text, 'That')) : curlRequest(text);
  const { method, url } = request;
  return { method, url: url.replace(/[?#].*$/s, ''), ...(await submissionOf(request)) };
}

async function submissionOf(request: SeenRequest): Promise<Omit<Pasted, 'method' | 'url'>> {
  const { type = '', body, parts, files = [] } = request;
  if (parts) return { ...asForm(parts), files };
  if (body === undefined) {
    const [, query = ''] = /\?([^#]*)/.exec(request.url) ?? [];
    if (query === '') throw new Misuse('The request has no body, and no query either; paste one that sends something.');
    return { ...asForm([...new URLSearchParams(query)]), files };
  }
  if (/^multipart\/form-data/i.test(type)) return inParts(type, body);
  const isForm = /^application\/x-www-form-urlencoded/i.test(type);
  if (isForm && !isJson(body)) return { ...asForm([...new URLSearchParams(body)]), files };
  jsonIn(body, 'Its body');
  return { submission: formatted(body), as: 'json', files, ...(isForm && { isCalledForm: true }) };
}

async function inParts(type: string, body: string): Promise<Pick<Pasted, 'submission' | 'as' | 'files'>> {
  const sent = await new Response(body, { headers: { 'content-type': type } }).formData().catch(() => {
    throw new Misuse('Its body is no form with parts (multipart/form-data, RFC 7578) that can be read.');
  });
  const all = [...sent];
  return {
    ...asForm(all.filter((entry): entry is [string, string] => typeof entry[1] === 'string')),
    files: all.filter(([, value]) => typeof value !== 'string').map(([name]) => name),
  };
}

function asForm(entries: readonly (readonly [string, string])[]): Pick<Pasted, 'submission' | 'as'> {
  return { submission: JSON.stringify(formObject(entries), null, 2), as: 'form' };
}

/** A command often says nothing of the type of its body, which then goes out as if it were a form. */
function isJson(text: string): boolean {
  return /^\s*[[{]/.test(text) && 'value' in readJson(text);
}

function jsonIn(text: string, what: string): unknown {
  const read = readJson(text);
  if ('problem' in read) throw new Misuse(`${what} is not JSON: ${read.problem}.`);
  return read.value;
}

/** One line becomes several, and every digit stays. */
function formatted(json: string): string {
  if (json.trim().includes('\n')) return json.replace(/\n$/, '');
  return applyEdits(json, format(json, undefined, { insertSpaces: true, tabSize: 2 })).trim();
}
