import { fault } from '../../core/fault.ts';
import { isIntake } from '../../core/intake.ts';
import type { Finding, Verdict } from '../../core/verdict.ts';
import { formObject } from '../form.ts';
import { type FormState, formState } from '../form-state.ts';
import { type Read, urlEncodedPart } from './body.ts';
import { DEFAULT_LIMITS, type Limits } from './json.ts';
import { judgeParts, type PartName, type PartToJudge } from './judging.ts';
import { languagesOf, localeOf, wantsPage } from './negotiate.ts';
import {
  type About,
  type Amends,
  type Answer,
  type AnyIntake,
  called,
  type Done,
  type PartIntakes,
  type Receivable,
  type Received,
  type ReceiveOptions,
} from './options.ts';
import { type LogEntry, type Problem, type ProblemKind, sentFinding, TITLES, Unreadable } from './problem.ts';

// What `receive` does whatever the server is: from a request to the handler, or to an answer.

/** A request, as every server can tell it. */
export interface Incoming<Q> {
  readonly request: Q;
  readonly method: string;
  /** What stands after the question mark. */
  readonly query: string;
  readonly params: { readonly [name: string]: string };
  readonly header: (name: string) => string | undefined;
  readonly headers: () => { readonly [name: string]: string };
  readonly cookies: () => { readonly [name: string]: string | undefined };
  readonly body: (limits: Required<Limits>) => Promise<Read>;
  readonly signal: AbortSignal;
}

/** What comes of a request: the handler's turn, or an answer. */
export type Reception<Q, C> =
  | { readonly value: unknown; readonly received: Received<Q, C>; readonly finish: Finish<C> }
  | { readonly answer: Answer };

/** Turns what the handler gives or throws into an answer. */
export interface Finish<C> {
  readonly caller: C;
  done(done: Done): Promise<Answer>;
  /** The answer for a lost race; `undefined` for any other error. */
  failed(error: unknown): Promise<Answer | undefined>;
}

// biome-ignore lint/suspicious/noExplicitAny: options are checked where `receive` is called
type Loose<Q, C> = ReceiveOptions<Q, C> & { readonly given?: (about: About<Q, C>) => any };

export class Receiver<Q, C> {
  readonly #intakes: readonly (readonly [PartName | 'main', AnyIntake])[];
  readonly #isSingle: boolean;
  readonly #options: Loose<Q, C>;
  readonly #languages: readonly [string, ...string[]];
  readonly #limits: Required<Limits>;
  readonly #name: string;

  constructor(parts: Receivable, options: Loose<Q, C>) {
    this.#isSingle = isIntake(parts);
    this.#intakes = this.#isSingle ? [['main', parts as AnyIntake]] : partsOf(parts as PartIntakes);
    this.#options = options;
    this.#languages = options.languages ?? languagesOf(this.#intakes.map(([, intake]) => intake));
    this.#limits = { ...DEFAULT_LIMITS, ...options.limits };
    this.#name = this.#intakes.map(([, { name }]) => name).join(', ');
  }

  async receive(incoming: Incoming<Q>): Promise<Reception<Q, C>> {
    return new Visit(incoming, this.#options, this.#intakes, this.#isSingle, this.#languages, this.#limits, this.#name).receive();
  }
}

const PARTS: readonly string[] = ['body', 'query', 'params', 'headers', 'cookies', 'uploads'];

function partsOf(parts: PartIntakes): (readonly [PartName, AnyIntake])[] {
  const entries = Object.entries(parts) as [PartName, AnyIntake][];
  for (const [name, intake] of entries) {
    if (!PARTS.includes(name) || !isIntake(intake)) fault(`receive: "${name}" is no part with an intake; there are ${PARTS.join(', ')}.`);
  }
  if (entries.length === 0) fault('receive: name an intake, or an intake for each part.');
  return entries;
}

class Visit<Q, C> {
  readonly #start = performance.now();
  #about: About<Q, C> | undefined;
  #typed: object = [];
  #isForm = false;

  constructor(
    readonly incoming: Incoming<Q>,
    readonly options: Loose<Q, C>,
    readonly intakes: readonly (readonly [PartName | 'main', AnyIntake])[],
    readonly isSingle: boolean,
    readonly languages: readonly [string, ...string[]],
    readonly limits: Required<Limits>,
    readonly name: string,
  ) {}

  get #locale(): string {
    return this.options.locale?.(this.incoming.request) ?? localeOf(this.incoming.header('accept-language'), this.languages);
  }

  async receive(): Promise<Reception<Q, C>> {
    const { incoming, options } = this;
    const caller = options.caller ? await options.caller(incoming.request) : (undefined as C);
    if (options.caller && caller === undefined) return this.#stop('unknown-caller');
    const about: About<Q, C> = { request: incoming.request, caller: caller as C, params: incoming.params };
    this.#about = about;
    if (options.allows && !(await options.allows(about))) return this.#stop('not-allowed');
    const amends = await options.amends?.(about);
    if (options.amends && !amends) return this.#stop('nothing-there');
    try {
      return await this.#judge(about, await this.#read(about, amends));
    } catch (error) {
      if (error instanceof Unreadable) return this.#stop('unreadable', undefined, { status: error.status, detail: error.message });
      throw error;
    }
  }

  async #judge(about: About<Q, C>, parts: PartToJudge[]): Promise<Reception<Q, C>> {
    const { verdict, changed } = await judgeParts(parts, this.isSingle);
    if (verdict.outcome !== 'accepted') return this.#stop(verdict.outcome, verdict);
    this.#log('accepted', undefined, verdict);
    const { warnings } = verdict;
    const received = new Told<Q, C>(about, this.#locale, warnings, changed, verdict, this.incoming.signal, () => this.#form([]));
    const finish: Finish<C> = {
      caller: about.caller,
      done: (done) => this.#done(done),
      failed: (error) => this.#failed(error, parts, verdict.value),
    };
    return { value: verdict.value, received, finish };
  }

  /** Reads every part that has an intake. */
  async #read(about: About<Q, C>, amends: Amends | undefined): Promise<PartToJudge[]> {
    const { incoming, intakes, options, isSingle } = this;
    const isBodiless = incoming.method === 'GET' || incoming.method === 'HEAD';
    const names = intakes.map(([name]) => (name === 'main' ? (isBodiless ? 'query' : 'body') : name));
    const needsBody = names.includes('body') || names.includes('uploads');
    const body = needsBody ? await incoming.body(this.limits) : NO_BODY;
    const hasUploads = names.includes('uploads');
    const given = await options.given?.(about);
    const records = typeof options.records === 'function' ? options.records(about) : options.records;
    const common = {
      report: options.report ?? 'firstOfEach',
      locale: this.#locale,
      signal: incoming.signal,
      ...(records && { records }),
      ...(options.now && { now: options.now() }),
      ...(options.zone !== undefined && { zone: options.zone }),
      ...(options.within !== undefined && { within: options.within }),
      ...(options.explain && { explain: true }),
      ...(options.occasion !== undefined && { occasion: options.occasion }),
    };
    return intakes.map(([, intake], index) => {
      const name = names[index] as PartName;
      const read = this.#part(name, body, hasUploads);
      if (name === 'body' || (isSingle && name === 'query')) {
        this.#typed = read.typed ?? (typeof read.submission === 'object' && read.submission !== null ? read.submission : []);
        this.#isForm = read.as === 'form';
      }
      const ofPart = isSingle ? given : given?.[name];
      const whole = read.as === 'form' || incoming.method === 'PUT';
      return {
        name,
        intake,
        read,
        options: ofPart === undefined ? common : { ...common, given: ofPart },
        ...(amends && name === 'body' && { amends: { ...amends, whole } }),
      };
    });
  }

  #part(name: PartName, body: Read, hasUploads: boolean): Read {
    const { incoming } = this;
    switch (name) {
      case 'query':
        return urlEncodedPart(incoming.query, this.limits);
      case 'params':
        return { submission: { ...incoming.params }, as: 'form' };
      case 'headers':
        return { submission: incoming.headers(), as: 'form' };
      case 'cookies':
        return { submission: { ...incoming.cookies() }, as: 'form' };
      case 'uploads':
        return { submission: formObject(body.files ?? []), as: 'form' };
      case 'body':
        return hasUploads && body.typed ? { ...body, submission: formObject(body.typed) } : body;
    }
  }

  async #stop(kind: ProblemKind, verdict?: Verdict<unknown>, more: { readonly status?: number; readonly detail?: string } = {}) {
    const answer = await this.#answer(kind, verdict, more);
    if (kind !== 'lost-race') this.#log(kind, answer.status, verdict);
    return { answer };
  }

  async #answer(
    kind: ProblemKind,
    verdict: Verdict<unknown> | undefined,
    more: { readonly status?: number; readonly detail?: string },
  ): Promise<Answer> {
    const { options, incoming } = this;
    const status = options.statuses?.[kind] ?? more.status ?? STATUSES[kind];
    const isFull = options.findings === 'full';
    const findings = verdict?.outcome === 'rejected' ? verdict.findings : undefined;
    const problem: Problem = {
      type: options.types?.[kind] ?? 'about:blank',
      title: TITLES[kind],
      status,
      ...(more.detail !== undefined && { detail: more.detail }),
      ...(findings && { findings: findings.map((finding) => sentFinding(finding, isFull)) }),
      ...(verdict?.outcome === 'rejected' && verdict.more && { more: true as const }),
    };
    const headers = this.#headers(kind);
    const form = this.#form(findings ?? []);
    const own = options.answer?.(problem, { kind, request: incoming.request, verdict, form });
    if (own) {
      const type = own.body === undefined ? {} : { 'content-type': 'text/plain; charset=utf-8' };
      return { status: own.status ?? status, headers: { ...headers, ...type, ...own.headers }, body: own.body ?? JSON.stringify(problem) };
    }
    const page = await this.#page(problem, kind, verdict, form);
    if (page === undefined) return { status, headers, body: JSON.stringify(problem) };
    return { status, headers: { ...headers, 'content-type': 'text/html; charset=utf-8' }, body: page };
  }

  #headers(kind: ProblemKind): Answer['headers'] {
    const { challenge = 'Bearer', retryAfter = 5 } = this.options;
    return {
      'content-type': 'application/problem+json',
      'content-language': this.#locale,
      vary: 'Accept, Accept-Language',
      'cache-control': 'no-store',
      ...(kind === 'undecided' && { 'retry-after': String(retryAfter) }),
      ...(kind === 'unknown-caller' && { 'www-authenticate': challenge }),
    };
  }

  /** What was sent, for showing it again. */
  #form(findings: readonly Finding[]): FormState {
    const { intakes } = this;
    const main = intakes.find(([name]) => name === 'main' || name === 'body')?.[1] ?? (intakes[0]?.[1] as AnyIntake);
    return formState(main, this.#typed, findings);
  }

  /** The form again, for a browser without a script. */
  async #page(problem: Problem, kind: ProblemKind, verdict: Verdict<unknown> | undefined, form: FormState): Promise<string | undefined> {
    const { options, incoming } = this;
    if (!options.page || !this.#about || !wantsPage(incoming.header('accept'))) return undefined;
    return options.page({ ...this.#about, problem, kind, form, locale: this.#locale, verdict });
  }

  async #done({ status, location, body, headers = {} }: Done): Promise<Answer> {
    const isPage = this.#isForm && location !== undefined && wantsPage(this.incoming.header('accept'));
    if (isPage) return { status: 303, headers: { ...headers, location, 'cache-control': 'no-store' }, body: '' };
    const usual = location !== undefined ? 201 : body === undefined ? 204 : 200;
    const fit = this.#fit(body);
    if ('unfit' in fit) return this.#answer('unfit-answer', undefined, fit.unfit === undefined ? {} : { detail: fit.unfit });
    return {
      status: status ?? usual,
      headers: {
        ...(location !== undefined && { location }),
        ...(body !== undefined && { 'content-type': 'application/json' }),
        ...headers,
      },
      body: fit.body === undefined ? '' : JSON.stringify(fit.body),
    };
  }

  /** Judges the body going out; what its intake accepts has no undeclared member. */
  #fit(body: unknown): { readonly body: unknown } | { readonly unfit: string | undefined } {
    const { sends, unfit = 'refuse' } = this.options;
    if (!sends || body === undefined) return { body };
    const verdict = called(sends).judgeLocally(body, {});
    if (verdict.outcome === 'accepted') return { body: verdict.value };
    this.#log('unfit-answer', unfit === 'log' ? undefined : 500, verdict, sends.name);
    if (unfit === 'log') return { body };
    const told = verdict.outcome === 'rejected' ? verdict.findings.map(({ use, message }) => `${use}: ${message}`) : [];
    return { unfit: unfit === 'drop' ? undefined : [`The answer does not match "${sends.name}".`, ...told].join(' ') };
  }

  async #failed(error: unknown, parts: readonly PartToJudge[], value: unknown): Promise<Answer | undefined> {
    for (const { name, intake, options } of parts) {
      const own = this.isSingle ? value : (value as { readonly [part: string]: unknown })[name];
      const refusal = called(intake).refusalOf(error, { ...options, value: own });
      if (!refusal) continue;
      const answer = await this.#answer('lost-race', refusal, {});
      this.#log('lost-race', answer.status, refusal);
      return answer;
    }
    return undefined;
  }

  #log(outcome: LogEntry['outcome'], status: number | undefined, verdict: Verdict<unknown> | undefined, intake = this.name): void {
    const { log } = this.options;
    if (!log) return;
    const unsettled = verdict?.unsettled ?? [];
    const entry: LogEntry = {
      intake,
      outcome,
      status,
      failed: verdict?.outcome === 'rejected' ? verdict.findings.map(({ use }) => use) : [],
      unsettled: unsettled.map(({ use, why }) => ({ use, why })),
      milliseconds: Math.round((performance.now() - this.#start) * 100) / 100,
    };
    const causes = unsettled.flatMap(({ cause }) => (cause === undefined ? [] : [cause]));
    if (causes.length > 0) Object.defineProperty(entry, 'causes', { value: causes, enumerable: false });
    log(entry);
  }
}

/** What a handler is told; the form is put together only for one that asks. */
class Told<Q, C> implements Received<Q, C> {
  readonly request: Q;
  readonly caller: C;
  readonly params: { readonly [name: string]: string };
  readonly #form: () => FormState;
  constructor(
    about: About<Q, C>,
    readonly locale: string,
    readonly warnings: readonly Finding[],
    readonly changed: readonly string[],
    readonly verdict: Verdict<unknown>,
    readonly signal: AbortSignal,
    form: () => FormState,
  ) {
    this.request = about.request;
    this.caller = about.caller;
    this.params = about.params;
    this.#form = form;
  }
  get form(): FormState {
    return this.#form();
  }
}

const NO_BODY: Read = { submission: {}, as: 'json' };

const STATUSES: { readonly [kind in ProblemKind]: number } = {
  unreadable: 400,
  'unknown-caller': 401,
  'not-allowed': 403,
  'nothing-there': 404,
  rejected: 422,
  'lost-race': 422,
  undecided: 503,
  'unfit-answer': 500,
};
