import { parseCookie } from 'cookie';
import type { Finding, Verdict } from '../core/basics/verdict.ts';
import type { Options } from '../core/judging/options.ts';
import type { BuiltIntake } from '../drafts/built.ts';
import { formObject } from '../forms/form.ts';
import { schemaAt } from './gathered.ts';
import { readIntake } from './intake-of.ts';
import { isStyle, type Parameter, queryOf, typeNamed, usualStyle, written } from './parameters.ts';
import { inside, isObject, type Placed, type Places, type Refused, Unsupported } from './places.ts';
import type { ReadingOptions } from './reading.ts';

/** A request, as far as it is judged. */
export interface PublishedRequest {
  /** Path and query, percent-encoded. */
  readonly url: string;
  /** By name, in any case. */
  readonly headers?: { readonly [name: string]: string | undefined };
  /** Of JSON what it holds; of a form a `URLSearchParams` or `FormData`, or the text. */
  readonly body?: unknown;
}

/** An answer, as far as it is judged. */
export interface PublishedAnswer {
  readonly status: number;
  readonly headers?: { readonly [name: string]: string | undefined };
  /** What its JSON holds. */
  readonly body?: unknown;
}

type Part = 'params' | 'query' | 'headers' | 'cookies' | 'body';

/** What became of a request or an answer. */
export interface JudgedExchange {
  readonly outcome: 'accepted' | 'rejected' | 'undecided';
  readonly verdicts: { readonly [P in Part]?: Verdict<unknown> };
  readonly findings: readonly (Finding & { readonly part: Part })[];
  /** Why something was not judged at all, as a sentence: it is rejected then. */
  readonly unread: string | undefined;
}

/** What is read of one body: an object as it is, and anything else as the field `body` of one. */
interface Body {
  readonly intake: BuiltIntake;
  readonly as: 'json' | 'form';
  readonly isWrapped: boolean;
}

interface Content {
  readonly bodies: ReadonlyMap<string, Body>;
  /** Media types that are described and not judged. */
  readonly others: readonly string[];
  readonly isRequired: boolean;
}

type Reporter = { refuse(of: string, each: Refused): void; note(of: string, each: Refused): void };

const METHODS = ['get', 'put', 'post', 'delete', 'options', 'head', 'patch', 'trace'];
const PARTS = { path: 'params', query: 'query', header: 'headers', cookie: 'cookies' } as const;

/** One operation of OpenAPI: what a request for it has to be, and its answers. */
export class Operation {
  readonly id: string;
  /** In lower case. */
  readonly method: string;
  /** With the parameters in braces. */
  readonly path: string;
  /** The intakes of the parts of a request, as `receive` takes them, where its parameters are written as forms write them. */
  readonly parts: { readonly [P in Part]?: BuiltIntake };
  readonly #parameters: readonly Parameter[];
  readonly #body: Content | undefined;
  readonly #answers: ReadonlyMap<string, Content | undefined>;
  readonly #pattern: RegExp;

  constructor(
    id: string,
    method: string,
    path: string,
    parts: { readonly [P in Part]?: BuiltIntake },
    parameters: readonly Parameter[],
    body: Content | undefined,
    answers: ReadonlyMap<string, Content | undefined>,
  ) {
    this.id = id;
    this.method = method;
    this.path = path;
    this.parts = parts;
    this.#parameters = parameters;
    this.#body = body;
    this.#answers = answers;
    const source = path
      .split(/(\{[^}]+\})/)
      .map((part) => (part.startsWith('{') ? '([^/?#]+)' : part.replaceAll(/[.*+?^${}()|[\]\\]/g, '\\$&')));
    this.#pattern = new RegExp(`^${source.join('')}$`);
  }

  /** Whether a request is for this operation. */
  isFor(method: string, url: string): boolean {
    return method.toLowerCase() === this.method && this.#pattern.test(pathOf(url));
  }

  /** Judges the parameters and the body of a request. What it lacks is what its intakes say. */
  async judgeRequest({ url, headers = {}, body }: PublishedRequest, options: Options = {}): Promise<JudgedExchange> {
    const lowered = Object.fromEntries(Object.entries(headers).map(([name, value]) => [name.toLowerCase(), value]));
    const names = [...this.path.matchAll(/\{([^}]+)\}/g)].map(([, name]) => name as string);
    const segments = this.#pattern.exec(pathOf(url))?.slice(1) ?? [];
    const of = (place: Parameter['in']) => this.#parameters.filter((each) => each.in === place);
    const read = (place: Parameter['in'], raw: (name: string) => string | undefined) =>
      Object.fromEntries(
        of(place).flatMap((each) => {
          const value = raw(each.name);
          return value === undefined
            ? []
            : [
                [
                  each.name,
                  written(place === 'header' ? encodeURIComponent(value).replaceAll('%2C', ',').replaceAll('%3D', '=') : value, each),
                ],
              ];
        }),
      );
    const cookies = parseCookie(lowered.cookie ?? '', { decode: (text) => text });
    const submissions: { [P in Part]?: unknown } = {
      params: read('path', (name) => segments[names.indexOf(name)]),
      query: queryOf(url.includes('?') ? url.slice(url.indexOf('?')).replace(/#.*/s, '') : '', of('query')),
      headers: read('header', (name) => lowered[name]),
      cookies: read('cookie', (name) => cookies[name]),
    };
    const verdicts: { [P in Part]?: Verdict<unknown> } = {};
    for (const part of ['params', 'query', 'headers', 'cookies'] as const) {
      const intake = this.parts[part];
      if (intake) verdicts[part] = await intake.judge(submissions[part], { ...options, as: 'form' });
    }
    const unread = await judgeBody(this.#body, body, lowered['content-type'], options, verdicts);
    return exchangeOf(verdicts, unread);
  }

  /** Judges the body of an answer by what is described for its status. */
  async judgeAnswer({ status, headers = {}, body }: PublishedAnswer, options: Options = {}): Promise<JudgedExchange> {
    const key = [String(status), `${String(status)[0]}XX`, 'default'].find((each) => this.#answers.has(each));
    if (key === undefined) return exchangeOf({}, `The status ${status} is none of ${[...this.#answers.keys()].join(', ')}.`);
    const type = Object.entries(headers).find(([name]) => name.toLowerCase() === 'content-type')?.[1];
    const verdicts: { [P in Part]?: Verdict<unknown> } = {};
    return exchangeOf(verdicts, await judgeBody(this.#answers.get(key), body, type, options, verdicts));
  }
}

function pathOf(url: string): string {
  return url.replace(/[?#].*$/s, '').replace(/^[a-z][a-z0-9+.-]*:\/\/[^/]*/i, '');
}

/** Why a body was not judged; `undefined` where it was, or there is nothing to judge. */
async function judgeBody(
  content: Content | undefined,
  body: unknown,
  contentType: string | undefined,
  options: Options,
  verdicts: { body?: Verdict<unknown> },
): Promise<string | undefined> {
  if (!content) return undefined;
  if (body === undefined) return content.isRequired ? 'The body is missing.' : undefined;
  const type =
    contentType?.split(';')[0]?.trim().toLowerCase() ?? (content.bodies.size === 1 ? [...content.bodies.keys()][0] : 'application/json');
  const known = [...content.bodies.keys()];
  const key = known.find((each) => each === type) ?? known.find((each) => isLike(each, type as string));
  const found = key === undefined ? undefined : content.bodies.get(key);
  if (!found) {
    if (content.others.some((each) => each === type || isLike(each, type as string))) return undefined;
    return `The body is ${type}, and ${[...known, ...content.others].join(' or ') || 'none'} is described.`;
  }
  const entries = typeof body === 'string' ? new URLSearchParams(body) : (body as Iterable<readonly [string, unknown]>);
  const isForm =
    found.as === 'form' && (typeof body === 'string' || (typeof body === 'object' && body !== null && Symbol.iterator in body));
  const read = isForm ? formObject(entries) : body;
  verdicts.body = await found.intake.judge(found.isWrapped ? { body: read } : read, { ...options, as: found.as });
  return undefined;
}

/** Whether a media type is of a range, such as `application/*`. */
function isLike(range: string, type: string): boolean {
  return range === '*/*' || (range.endsWith('/*') && type.startsWith(range.slice(0, -1)));
}

function exchangeOf(verdicts: JudgedExchange['verdicts'], unread: string | undefined): JudgedExchange {
  const all = Object.entries(verdicts) as [Part, Verdict<unknown>][];
  const findings = all.flatMap(([part, verdict]) =>
    verdict.outcome === 'rejected' ? verdict.findings.map((each) => ({ ...each, part })) : [],
  );
  const isRejected = unread !== undefined || all.some(([, { outcome }]) => outcome === 'rejected');
  const isUndecided = all.some(([, { outcome }]) => outcome === 'undecided');
  return { outcome: isRejected ? 'rejected' : isUndecided ? 'undecided' : 'accepted', verdicts, findings, unread };
}

/** The operations of an OpenAPI document, by their ids. */
export function operationsIn(
  { paths }: { readonly [member: string]: unknown },
  places: Places,
  options: ReadingOptions,
  reporter: Reporter,
): Map<string, Operation> {
  const operations = new Map<string, Operation>();
  for (const [path, item] of Object.entries(isObject(paths) ? paths : {})) {
    const at = inside('#', 'paths', path);
    const told = followed(item, at, places);
    for (const method of METHODS) {
      const operation = told.value[method];
      if (!isObject(operation)) continue;
      const id = typeof operation.operationId === 'string' ? operation.operationId : `${method} ${path}`;
      const reader = new OperationReader(places, options, {
        refuse: (each) => reporter.refuse(id, each),
        note: (each) => reporter.note(id, each),
      });
      const made = reader.read(id, method, path, operation, inside(told.at, method), told);
      if (made) operations.set(id, made);
    }
  }
  return operations;
}

function followed(
  value: unknown,
  at: string,
  places: Places,
): { readonly value: { readonly [member: string]: unknown }; readonly at: string } {
  if (!isObject(value)) return { value: {}, at };
  if (typeof value.$ref !== 'string') return { value, at };
  const found = places.found(value.$ref, at);
  return isObject(found.value) ? { value: found.value, at: found.at } : { value: {}, at: found.at };
}

class OperationReader {
  readonly #places: Places;
  readonly #options: ReadingOptions;
  readonly #reporter: { refuse(each: Refused): void; note(each: Refused): void };
  #isRefused = false;

  constructor(places: Places, options: ReadingOptions, reporter: { refuse(each: Refused): void; note(each: Refused): void }) {
    this.#places = places;
    this.#options = options;
    this.#reporter = reporter;
  }

  read(
    id: string,
    method: string,
    path: string,
    operation: { readonly [member: string]: unknown },
    at: string,
    item: { readonly value: { readonly [member: string]: unknown }; readonly at: string },
  ): Operation | undefined {
    const parameters = this.#parameters(operation, at, item);
    const parts: { [P in Part]?: BuiltIntake } = {};
    for (const [place, part] of Object.entries(PARTS)) {
      const own = parameters.filter((each) => each.in === place);
      if (own.length === 0) continue;
      const schema = {
        type: 'object',
        properties: Object.fromEntries(own.map(({ name, placed }) => [name, placed.schema])),
        required: own.filter(({ isRequired }) => isRequired).map(({ name }) => name),
      };
      const made = this.#intake(`${id} ${part}`, { schema, at: inside(at, 'parameters') }, 'received', false);
      if (made) parts[part] = made;
    }
    const body = this.#attempted(() => {
      const found = followed(operation.requestBody, inside(at, 'requestBody'), this.#places);
      return found.value.content === undefined ? undefined : this.#content(id, found, 'received', found.value.required === true);
    });
    const [first] = body ? body.bodies.values() : [];
    if (first && !first.isWrapped) parts.body = first.intake;
    const answers = new Map<string, Content | undefined>();
    for (const [status, response] of Object.entries(isObject(operation.responses) ? operation.responses : {}))
      this.#attempted(() => {
        const found = followed(response, inside(at, 'responses', status), this.#places);
        answers.set(
          status.toUpperCase().replace('DEFAULT', 'default'),
          found.value.content === undefined ? undefined : this.#content(`${id} ${status}`, found, 'sent', true),
        );
      });
    return this.#isRefused ? undefined : new Operation(id, method, path, parts, parameters, body, answers);
  }

  #attempted<T>(reads: () => T): T | undefined {
    try {
      return reads();
    } catch (cause) {
      if (!(cause instanceof Unsupported)) throw cause;
      this.#isRefused = true;
      this.#reporter.refuse(cause.refused);
      return undefined;
    }
  }

  #intake(name: string, placed: Placed, direction: 'received' | 'sent', files: boolean): BuiltIntake | undefined {
    const { intake, refused, notes } = readIntake(name, placed, this.#places, { ...this.#options, direction, files });
    for (const each of refused) this.#reporter.refuse(each);
    for (const each of notes) this.#reporter.note(each);
    if (!intake) this.#isRefused = true;
    return intake;
  }

  /** Those of the operation replace those of its path with the same name in the same place. */
  #parameters(
    operation: { readonly [member: string]: unknown },
    at: string,
    item: { readonly value: { readonly [member: string]: unknown }; readonly at: string },
  ): Parameter[] {
    const byName = new Map<string, Parameter>();
    const lists = [
      [item.value.parameters, inside(item.at, 'parameters')],
      [operation.parameters, inside(at, 'parameters')],
    ] as const;
    for (const [list, where] of lists)
      for (const [index, each] of (Array.isArray(list) ? list : []).entries())
        this.#attempted(() => {
          const parameter = this.#parameter(each, inside(where, index));
          if (parameter) byName.set(`${parameter.in} ${parameter.name}`, parameter);
        });
    return [...byName.values()];
  }

  #parameter(given: unknown, at: string): Parameter | undefined {
    const { value, at: there } = followed(given, at, this.#places);
    const place = String(value.in) as Parameter['in'];
    if (!Object.hasOwn(PARTS, place))
      throw new Unsupported(inside(there, 'in'), 'in', `${JSON.stringify(value.in)} is none of path, query, header and cookie`);
    const name = place === 'header' ? String(value.name).toLowerCase() : String(value.name);
    // What these say is of HTTP itself (OpenAPI 3.1, 4.8.12.2.1).
    if (place === 'header' && ['accept', 'content-type', 'authorization'].includes(name)) return undefined;
    if (value.content !== undefined)
      throw new Unsupported(inside(there, 'content'), 'content', 'a parameter that is a document by itself is not read');
    const style = typeof value.style === 'string' ? value.style : usualStyle(place);
    if (!isStyle(place, style)) throw new Unsupported(inside(there, 'style'), 'style', `"${style}" is none for a parameter of ${place}`);
    const schema = schemaAt(value.schema ?? true, inside(there, 'schema'));
    const referred = followed(schema, inside(there, 'schema'), this.#places).value;
    return {
      name,
      in: place,
      isRequired: place === 'path' || value.required === true,
      style,
      explode: typeof value.explode === 'boolean' ? value.explode : style === 'form' || style === 'deepObject',
      type: typeNamed(referred),
      members: isObject(referred.properties) ? Object.keys(referred.properties) : [],
      placed: { schema, at: inside(there, 'schema') },
    };
  }

  #content(
    name: string,
    { value, at }: { readonly value: { readonly [member: string]: unknown }; readonly at: string },
    direction: 'received' | 'sent',
    isRequired: boolean,
  ): Content {
    const bodies = new Map<string, Body>();
    const others: string[] = [];
    for (const [type, media] of Object.entries(isObject(value.content) ? value.content : {})) {
      const where = inside(at, 'content', type);
      const key = type.split(';')[0]?.trim().toLowerCase() as string;
      const as = /[/+]json$/.test(key) || key === '*/*' || key === 'application/*' ? 'json' : FORMS.has(key) ? 'form' : undefined;
      if (!as || !isObject(media) || media.schema === undefined) {
        others.push(key);
        this.#reporter.note({
          at: where,
          keyword: 'content',
          why: as ? 'a body without a schema is not judged' : `bodies of ${key} are not judged`,
        });
        continue;
      }
      const placed = { schema: schemaAt(media.schema, inside(where, 'schema')), at: inside(where, 'schema') };
      const isWrapped =
        ['array', 'string', 'number', 'integer', 'boolean'].includes(typeNamed(followed(placed.schema, placed.at, this.#places).value)) &&
        !isUntyped(followed(placed.schema, placed.at, this.#places).value);
      const whole = isWrapped
        ? { schema: { type: 'object', properties: { body: placed.schema }, required: ['body'] }, at: placed.at }
        : placed;
      const intake = this.#intake(name, whole, direction, key === 'multipart/form-data');
      if (intake) bodies.set(key, { intake, as, isWrapped });
    }
    return { bodies, others, isRequired };
  }
}

/** Of a schema put together of others the type does not show. */
function isUntyped(schema: { readonly [keyword: string]: unknown }): boolean {
  return schema.type === undefined && schema.items === undefined;
}

const FORMS = new Set(['application/x-www-form-urlencoded', 'multipart/form-data']);
