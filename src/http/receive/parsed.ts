import { jsonPart, sortOf, textOf, urlEncodedPart } from './body.ts';
import { formPart, type ReadPart } from './form-part.ts';
import type { Limits } from './json.ts';

/** What a body parser has made of it: text, bytes, or an object. */
export function parsedPart(body: unknown, type: string | undefined, limits: Required<Limits>): ReadPart {
  const isJson = type === undefined || type === '' || sortOf(type) === 'json';
  if (typeof body === 'string' || body instanceof Uint8Array) {
    const text = typeof body === 'string' ? body : textOf(body);
    return isJson ? jsonPart(text, limits) : urlEncodedPart(text, limits);
  }
  if (isJson) return { submission: body, as: 'json' };
  const pairs = Object.entries(body as object);
  // A parser that nests names by itself has left nothing to decode.
  const isNested = pairs.some(([, value]) => typeof value === 'object' && value !== null && !isTexts(value));
  if (isNested) return { submission: body, as: 'form' };
  return formPart(
    pairs.flatMap(([name, value]): [string, unknown][] => (Array.isArray(value) ? value.map((each) => [name, each]) : [[name, value]])),
    limits,
  );
}

function isTexts(value: object): boolean {
  return Array.isArray(value) && value.every((each) => typeof each === 'string');
}
