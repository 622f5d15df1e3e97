import type { Finding, Verdict } from '../../core/basics/verdict.ts';
import { refusalOf } from '../../core/beside.ts';
import { type ShownForm, shownForm } from '../../forms/shown-form.ts';
import type { ReadPart } from './form-part.ts';
import { lowered, safeLocation } from './headers.ts';
import type { Incoming, Setup } from './incoming.ts';
import type { PartToJudge } from './judging.ts';
import type { Logging } from './log.ts';
import { wantsPage } from './negotiate.ts';
import { type About, type Answer, type AnyIntake, called, type Done, type SentHeaders } from './options.ts';
import { type Problem, type ProblemKind, sentFinding, titleIn } from './problem.ts';

/** What an answer says beside what its kind does. */
interface MoreToSay {
  readonly status?: number;
  readonly detail?: string;
  readonly headers?: SentHeaders;
}

/** What is answered to one request, and what the log is told of it. */
export class Answering<Q, C> {
  readonly #setup: Setup<Q, C>;
  readonly #incoming: Incoming<Q>;
  readonly #log: Logging<Q, C>;
  #locale: string | undefined;
  /** Who sends what, once it is known. */
  about: About<Q, C> | undefined;
  /** The part that a form fills. */
  sent: ReadPart | undefined;

  constructor(setup: Setup<Q, C>, incoming: Incoming<Q>, log: Logging<Q, C>) {
    this.#setup = setup;
    this.#incoming = incoming;
    this.#log = log;
  }

  get locale(): string {
    const { options, languages } = this.#setup;
    this.#locale ??= options.locale?.(this.#incoming.request) ?? languages.of(this.#incoming.header('accept-language'));
    return this.#locale;
  }

  /** The answer for what stands in the way of the handler. */
  stop(kind: ProblemKind, verdict?: Verdict<unknown>, more: MoreToSay = {}): Promise<Answer> {
    this.#log.is(kind, verdict);
    this.#log.detail = more.detail;
    return this.#answer(kind, verdict, more);
  }

  async #answer(kind: ProblemKind, verdict: Verdict<unknown> | undefined, more: MoreToSay): Promise<Answer> {
    const { options, catalogues } = this.#setup;
    const incoming = this.#incoming;
    const status = options.statuses?.[kind] ?? more.status ?? STATUSES[kind];
    const isFull = options.findings === 'full';
    const findings = verdict?.outcome === 'rejected' ? verdict.findings : undefined;
    const problem: Problem = {
      type: options.types?.[kind] ?? 'about:blank',
      title: titleIn(this.locale, kind, catalogues),
      status,
      ...(more.detail !== undefined && { detail: more.detail }),
      ...(findings && { findings: findings.map((finding) => sentFinding(finding, isFull)) }),
      ...(verdict?.outcome === 'rejected' && verdict.more && { more: true as const }),
    };
    const headers = { ...this.#headers(kind), ...more.headers };
    // Most answers show no form again, and need none.
    if (!options.answer && !options.page) return { status, headers, body: JSON.stringify(problem) };
    const form = this.form(findings ?? []);
    const own = options.answer?.(problem, { kind, request: incoming.request, verdict, form });
    if (own) {
      const type = own.body === undefined ? {} : { 'content-type': 'text/plain; charset=utf-8' };
      return {
        status: own.status ?? status,
        headers: { ...headers, ...type, ...lowered(own.headers) },
        body: own.body ?? JSON.stringify(problem),
      };
    }
    const page = await this.#page(problem, kind, verdict, form);
    if (page === undefined) return { status, headers, body: JSON.stringify(problem) };
    return { status, headers: { ...headers, 'content-type': 'text/html; charset=utf-8' }, body: page };
  }

  #headers(kind: ProblemKind): Answer['headers'] {
    const { challenge = 'Bearer', retryAfter = 5 } = this.#setup.options;
    return {
      'content-type': 'application/problem+json',
      'content-language': this.locale,
      vary: 'Accept, Accept-Language',
      'cache-control': 'no-store',
      ...(kind === 'undecided' && { 'retry-after': String(retryAfter) }),
      ...(kind === 'unknown-caller' && { 'www-authenticate': challenge }),
    };
  }

  /** What was sent, for showing it again. */
  form(findings: readonly Finding[]): ShownForm {
    const { intakes } = this.#setup;
    const main = intakes.find(([name]) => name === 'body')?.[1] ?? (intakes[0]?.[1] as AnyIntake);
    return shownForm(main, typedOf(this.sent), findings);
  }

  /** The form again, for a browser without a script. */
  async #page(problem: Problem, kind: ProblemKind, verdict: Verdict<unknown> | undefined, form: ShownForm): Promise<string | undefined> {
    const { options } = this.#setup;
    const incoming = this.#incoming;
    if (!options.page || !this.about || !wantsPage(incoming.header('accept'))) return undefined;
    return options.page({ ...this.about, problem, kind, form, locale: this.locale, verdict });
  }

  done({ status, location, elsewhere = false, body, headers }: Done): Promise<Answer> | Answer {
    const to = location === undefined ? undefined : safeLocation(location, this.#incoming.path(), elsewhere);
    const own = lowered(headers);
    const isPage = this.sent?.as === 'form' && to !== undefined && wantsPage(this.#incoming.header('accept'));
    if (isPage) return { status: 303, headers: { 'cache-control': 'no-store', ...own, location: to }, body: '' };
    const usual = to !== undefined ? 201 : body === undefined ? 204 : 200;
    const fit = this.#fit(body);
    if ('unfit' in fit) return this.#answer('unfit-answer', undefined, fit.unfit === undefined ? {} : { detail: fit.unfit });
    const told: { [name: string]: string | readonly string[] } = {};
    if (to !== undefined) told.location = to;
    if (body !== undefined) told['content-type'] = 'application/json';
    return {
      status: status ?? usual,
      headers: Object.assign(told, own),
      body: fit.body === undefined ? '' : JSON.stringify(fit.body),
    };
  }

  /** Judges the body going out; what its intake accepts has no undeclared member. */
  #fit(body: unknown): { readonly body: unknown } | { readonly unfit: string | undefined } {
    const { sends, unfit = UNFIT } = this.#setup.options;
    if (!sends || body === undefined) return { body };
    const verdict = called(sends).judgeLocally(body, {});
    if (verdict.outcome === 'accepted') return { body: verdict.value };
    this.#log.is('unfit-answer', verdict, sends.name);
    if (unfit === 'log') return { body };
    const told = verdict.outcome === 'rejected' ? verdict.findings.map(({ use, message }) => `${use}: ${message}`) : [];
    return { unfit: unfit === 'drop' ? undefined : [`The answer does not match "${sends.name}".`, ...told].join(' ') };
  }

  /** The answer for a lost race; `undefined` for any other error. */
  async failed(error: unknown, parts: readonly PartToJudge[], value: unknown): Promise<Answer | undefined> {
    for (const { name, intake, options } of parts) {
      const own = this.#setup.isSingle ? value : (value as { readonly [part: string]: unknown })[name];
      const refusal = refusalOf(intake as never, error, { ...options, value: own as never });
      if (!refusal) continue;
      return this.stop('lost-race', refusal);
    }
    return undefined;
  }
}

/** In production nobody is told how an answer is made. */
const UNFIT = typeof process !== 'undefined' && process.env.NODE_ENV === 'production' ? 'drop' : 'refuse';

/** What a page shows again: the texts of a form, or the members of a body. */
function typedOf(read: ReadPart | undefined): object {
  if (read?.pairs) return read.pairs;
  const { submission } = read ?? {};
  return typeof submission === 'object' && submission !== null && !Array.isArray(submission) ? submission : [];
}

const STATUSES: { readonly [kind in ProblemKind]: number } = {
  unreadable: 400,
  'wrong-method': 405,
  'other-origin': 403,
  'unknown-caller': 401,
  'not-allowed': 403,
  'nothing-there': 404,
  rejected: 422,
  'lost-race': 422,
  undecided: 503,
  'unfit-answer': 500,
};
