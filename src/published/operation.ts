import { parseCookie } from 'cookie';
import type { Finding, Verdict } from '../core/basics/verdict.ts';
import type { Options } from '../core/judging/options.ts';
import type { BuiltIntake } from '../drafts/built.ts';
import { formObject } from '../forms/form.ts';
import { type Parameter, queryOf, written } from './parameters.ts';

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

export type Part = 'params' | 'query' | 'headers' | 'cookies' | 'body';

/** What became of a request or an answer. */
export interface JudgedExchange {
  readonly outcome: 'accepted' | 'rejected' | 'undecided';
  readonly verdicts: { readonly [P in Part]?: Verdict<unknown> };
  readonly findings: readonly (Finding & { readonly part: Part })[];
  /** Why a body was not judged, as a sentence: what is not described is rejected, what is and cannot be read leaves it undecided. */
  readonly unread: string | undefined;
}

/** What is read of one body: an object as it is, and anything else as the field `body` of one. */
export interface Body {
  readonly intake: BuiltIntake;
  readonly as: 'json' | 'form';
  readonly isWrapped: boolean;
}

export interface Content {
  readonly bodies: ReadonlyMap<string, Body>;
  /** Media types that are described and not judged. */
  readonly others: readonly string[];
  readonly isRequired: boolean;
}

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
    this.#pattern = patternOf(path, parameters);
  }

  /** Whether a request is for this operation. */
  isFor(method: string, url: string): boolean {
    return method.toLowerCase() === this.method && this.#pattern.test(pathOf(url));
  }

  /** Judges the parameters and the body of a request. What it lacks is what its intakes say. */
  async judgeRequest({ url, headers = {}, body }: PublishedRequest, options: Options = {}): Promise<JudgedExchange> {
    const lowered = Object.fromEntries(Object.entries(headers).map(([name, value]) => [name.toLowerCase(), value]));
    const names = [...this.path.matchAll(/\{([^{}]+)\}/g)].map(([, name]) => name as string);
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
    if (key === undefined) return exchangeOf({}, rejected(`The status ${status} is none of ${[...this.#answers.keys()].join(', ')}.`));
    const type = Object.entries(headers).find(([name]) => name.toLowerCase() === 'content-type')?.[1];
    const verdicts: { [P in Part]?: Verdict<unknown> } = {};
    return exchangeOf(verdicts, await judgeBody(this.#answers.get(key), body, type, options, verdicts));
  }
}

/** Paths of this form; a parameter that begins with a dot or semicolon does not take in the next. */
function patternOf(path: string, parameters: readonly Parameter[]): RegExp {
  const styles = new Map(parameters.filter((each) => each.in === 'path').map(({ name, style }) => [name, style]));
  const parts = path.split(/(\{[^{}]+\})/).map((part) => {
    if (!part.startsWith('{')) return part.replaceAll(/[.*+?^${}()|[\]\\]/g, '\\$&');
    const style = styles.get(part.slice(1, -1));
    return style === 'label' ? '(\\.[^/?#;]*)' : style === 'matrix' ? '(;[^/?#]*)' : '([^/?#]+)';
  });
  return new RegExp(`^${parts.join('')}$`);
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
): Promise<Unread | undefined> {
  if (!content) return undefined;
  if (body === undefined) return content.isRequired ? rejected('The body is missing.') : undefined;
  const type =
    contentType?.split(';')[0]?.trim().toLowerCase() ?? (content.bodies.size === 1 ? [...content.bodies.keys()][0] : 'application/json');
  const known = [...content.bodies.keys()];
  const key = known.find((each) => each === type) ?? known.find((each) => isLike(each, type as string));
  const found = key === undefined ? undefined : content.bodies.get(key);
  if (!found) {
    if (content.others.some((each) => each === type || isLike(each, type as string)))
      return { why: `Bodies of ${type} are not judged.`, isRejected: false };
    return rejected(`The body is ${type}, and ${[...known, ...content.others].join(' or ') || 'none'} is described.`);
  }
  const entries = typeof body === 'string' ? new URLSearchParams(body) : (body as Iterable<readonly [string, unknown]>);
  const isForm =
    found.as === 'form' && (typeof body === 'string' || (typeof body === 'object' && body !== null && Symbol.iterator in body));
  const read = isForm ? formObject(entries) : body;
  verdicts.body = await found.intake.judge(found.isWrapped ? { body: read } : read, { ...options, as: found.as });
  return undefined;
}

/** Why a body was not judged. */
interface Unread {
  readonly why: string;
  readonly isRejected: boolean;
}

function rejected(why: string): Unread {
  return { why, isRejected: true };
}

/** Whether a media type is of a range, such as `application/*`. */
function isLike(range: string, type: string): boolean {
  return range === '*/*' || (range.endsWith('/*') && type.startsWith(range.slice(0, -1)));
}

function exchangeOf(verdicts: JudgedExchange['verdicts'], unread: Unread | undefined): JudgedExchange {
  const all = Object.entries(verdicts) as [Part, Verdict<unknown>][];
  const findings = all.flatMap(([part, verdict]) =>
    verdict.outcome === 'rejected' ? verdict.findings.map((each) => ({ ...each, part })) : [],
  );
  const isRejected = unread?.isRejected === true || all.some(([, { outcome }]) => outcome === 'rejected');
  const isUndecided = unread !== undefined || all.some(([, { outcome }]) => outcome === 'undecided');
  return { outcome: isRejected ? 'rejected' : isUndecided ? 'undecided' : 'accepted', verdicts, findings, unread: unread?.why };
}
