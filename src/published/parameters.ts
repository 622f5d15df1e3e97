import { formObject } from '../forms/form.ts';
import { isObject, type Placed } from './places.ts';

/** Where a parameter stands, and how it is written there (OpenAPI 3.1, 4.8.12). */
export interface Parameter {
  readonly name: string;
  readonly in: 'path' | 'query' | 'header' | 'cookie';
  readonly isRequired: boolean;
  readonly style: string;
  readonly explode: boolean;
  /** The type that its schema names. */
  readonly type: string;
  /** Of an object: the names of its properties. */
  readonly members: readonly string[];
  readonly placed: Placed;
}

const STYLES: { readonly [place: string]: readonly string[] } = {
  path: ['simple', 'label', 'matrix'],
  query: ['form', 'spaceDelimited', 'pipeDelimited', 'deepObject'],
  header: ['simple'],
  cookie: ['form'],
};

export function usualStyle(place: string): string {
  return STYLES[place]?.[0] ?? 'simple';
}

export function isStyle(place: string, style: string): boolean {
  return STYLES[place]?.includes(style) ?? false;
}

/** What a query says, as a form would. */
export function queryOf(search: string, parameters: readonly Parameter[]): object {
  // What delimits is seen before anything is decoded.
  const entries = search
    .replace(/^\?/, '')
    .split('&')
    .filter(Boolean)
    .map(pairIn)
    .map(([name, raw]) => [queried(name), raw] as const);
  const taken = new Set<string>();
  const read: { [name: string]: unknown } = {};
  for (const parameter of parameters) {
    const { name, type, style, explode, members } = parameter;
    if (style === 'deepObject') continue;
    if (type === 'object' && style === 'form' && explode) {
      const own = entries.filter(([key]) => members.includes(key));
      for (const [key] of own) taken.add(key);
      if (own.length > 0) read[name] = formObject(own.map(([key, raw]) => [key, queried(raw)]));
      continue;
    }
    const values = entries.filter(([key]) => key === name || (key === `${name}[]` && type === 'array')).map(([, raw]) => raw);
    if (values.length === 0) continue;
    taken.add(name).add(`${name}[]`);
    const isRepeated = values.length > 1 || (explode && style === 'form' && type === 'array');
    read[name] = isRepeated ? values.map(queried) : written(values[0] as string, parameter);
  }
  const others = formObject(entries.filter(([key]) => !taken.has(key)).map(([key, raw]) => [key, queried(raw)]));
  return Object.assign(others, read);
}

/** What one parameter says, from how it is written, percent-encoded. */
export function written(raw: string, { name, in: place, type, style, explode }: Parameter): unknown {
  const decoded = place === 'query' ? queried : unescaped;
  const bare = plain(raw, name, style, explode && (type === 'array' || type === 'object'));
  if (type !== 'array' && type !== 'object') return decoded(bare);
  if (bare === '') return type === 'array' ? [] : {};
  const parts = bare.split(DELIMITERS[explode ? `${style}*` : style] ?? ',');
  const pairs = () => parts.map(pairIn).map(([key, value]) => [decoded(key), decoded(value)] as const);
  if (type === 'array') return style === 'matrix' && explode ? pairs().map(([, value]) => value) : parts.map(decoded);
  if (explode) return Object.fromEntries(pairs());
  return Object.fromEntries(parts.flatMap((key, at) => (at % 2 === 0 ? [[decoded(key), decoded(parts[at + 1] ?? '')]] : [])));
}

/** By style; with a star where it is exploded. */
const DELIMITERS: { readonly [style: string]: string | RegExp } = {
  spaceDelimited: /%20|\+/,
  pipeDelimited: /\||%7C/i,
  'label*': '.',
  'matrix*': ';',
};

/** Of a query, where a plus is a blank (WHATWG URL, 5.1); elsewhere it is a plus. */
function queried(text: string): string {
  return unescaped(text.replaceAll('+', ' '));
}

function unescaped(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** Without what a style puts before a value (RFC 6570, 3.2.5 and 3.2.7). */
function plain(raw: string, name: string, style: string, isExploded: boolean): string {
  if (style === 'label') return raw.replace(/^\./, '');
  if (style !== 'matrix') return raw;
  if (isExploded) return raw.replace(/^;/, '');
  return raw.startsWith(`;${name}=`) ? raw.slice(name.length + 2) : raw === `;${name}` ? '' : raw;
}

function pairIn(part: string): readonly [string, string] {
  const at = part.indexOf('=');
  return at < 0 ? [part, ''] : [part.slice(0, at), part.slice(at + 1)];
}

/** The type that a schema names by itself. */
export function typeNamed(schema: unknown): string {
  if (!isObject(schema)) return 'string';
  const { type } = schema;
  const named = Array.isArray(type) ? type.find((each) => each !== 'null') : type;
  if (typeof named === 'string') return named;
  return schema.properties ? 'object' : schema.items ? 'array' : 'string';
}
