import type { Finding, Verdict } from '../../core/basics/verdict.ts';
import type { Options } from '../../core/judging/options.ts';
import { formObject } from '../../forms/form.ts';
import type { ShownForm } from '../../forms/shown-form.ts';
import { Answering } from './answering.ts';
import { NO_BODY, urlEncodedPart } from './body.ts';
import { Keeping } from './files.ts';
import type { ReadPart } from './form-part.ts';
import type { Incoming, Reception, Setup } from './incoming.ts';
import { judgeParts, type PartName, type PartToJudge } from './judging.ts';
import type { About, Amends, Received } from './options.ts';
import { isOfThisSite } from './origin.ts';
import { type ProblemKind, Unreadable } from './problem.ts';
import { type JudgedParts, judgeAndStoreParts } from './storing.ts';

type Judging = { -readonly [N in keyof Options]?: Options[N] } & { given?: unknown };

/** One request, from the question who sends it to the handler's turn. */
export class Visit<Q, C> {
  readonly #setup: Setup<Q, C>;
  readonly #incoming: Incoming<Q>;
  readonly #answering: Answering<Q, C>;
  #keeping: Keeping | undefined;

  constructor(setup: Setup<Q, C>, incoming: Incoming<Q>) {
    this.#setup = setup;
    this.#incoming = incoming;
    this.#answering = new Answering(setup, incoming);
  }

  async receive(): Promise<Reception<Q, C>> {
    const { request, params, method } = this.#incoming;
    const { options, methods } = this.#setup;
    if (methods && !methods.includes(method)) return this.#otherMethod(method, methods);
    if (!isOfThisSite(this.#incoming, this.#setup.origins)) return this.#stop('other-origin');
    const caller = options.caller ? await options.caller(request) : (undefined as C);
    if (options.caller && isNobody(caller)) return this.#stop('unknown-caller');
    const about: About<Q, C> = { request, caller: caller as C, params };
    this.#answering.about = about;
    if (options.allows && !(await options.allows(about))) return this.#stop('not-allowed');
    const amends = options.amends && (await options.amends(about));
    if (options.amends && !amends) return this.#stop('nothing-there');
    try {
      return await this.#judge(about, await this.#read(about, amends));
    } catch (error) {
      await this.#keeping?.discardAll();
      if (error instanceof Unreadable) {
        // What was not read must not be taken for the next request.
        const isCut = error.status === 413 || error.status === 408;
        const headers = isCut ? { connection: 'close' } : {};
        return this.#stop('unreadable', undefined, { status: error.status, detail: error.message, headers });
      }
      throw error;
    }
  }

  /** OPTIONS asks which methods there are (RFC 9110, 9.3.7). */
  #otherMethod(method: string, methods: readonly string[]): Promise<Reception<Q, C>> | Reception<Q, C> {
    const allow = methods.join(', ');
    if (method === 'OPTIONS') return { answer: { status: 204, headers: { allow }, body: '' } };
    return this.#stop('wrong-method', undefined, { headers: { allow } });
  }

  async #stop(kind: ProblemKind, verdict?: Verdict<unknown>, more: Parameters<Answering<Q, C>['stop']>[2] = {}) {
    return { answer: await this.#answering.stop(kind, verdict, more) };
  }

  async #judge(about: About<Q, C>, parts: PartToJudge[]): Promise<Reception<Q, C>> {
    const { isSingle, options } = this.#setup;
    const judged: JudgedParts = options.store
      ? await judgeAndStoreParts(parts, isSingle, about, options, this.#incoming.signal)
      : await judgeParts(parts, isSingle);
    const { verdict, changed, stored, isLost } = judged;
    if (verdict.outcome !== 'accepted') {
      await this.#keeping?.discardAll();
      return this.#stop(isLost ? 'lost-race' : verdict.outcome, verdict);
    }
    const answering = this.#answering;
    answering.log('accepted', undefined, verdict);
    const received = new HandlerTold<Q, C>(about, answering.locale, verdict.warnings, changed, verdict, stored, this.#incoming.signal, () =>
      answering.form([]),
    );
    return {
      value: verdict.value,
      received,
      finish: {
        done: (done) => answering.done(done),
        failed: async (error) => {
          await this.#keeping?.discardAll();
          return answering.failed(error, parts, verdict.value);
        },
      },
    };
  }

  /** Reads every part that has an intake. */
  async #read(about: About<Q, C>, amends: Amends | undefined): Promise<PartToJudge[]> {
    const incoming = this.#incoming;
    const { intakes, options, isSingle, limits } = this.#setup;
    const names = intakes.map(([name]) => (name === 'main' ? 'body' : name));
    const needsBody = names.includes('body') || names.includes('uploads');
    if (needsBody && options.files) this.#keeping = new Keeping(options.files);
    const body = needsBody ? await incoming.body(limits, this.#keeping) : NO_BODY;
    const hasUploads = names.includes('uploads');
    const given = await options.given?.(about);
    const records = typeof options.records === 'function' ? options.records(about) : options.records;
    // Put together once a request, and no longer than it takes: most of it is the same for all.
    const common: Judging = { ...this.#setup.judging, locale: this.#answering.locale };
    if (this.#setup.isAsking) common.signal = incoming.signal();
    if (records) common.records = records;
    if (options.now) common.now = options.now();
    return intakes.map(([, intake], index) => {
      const name = names[index] as PartName;
      const read = this.#part(name, body, hasUploads);
      // A form that only asks is sent as a query.
      if (name === 'body' || (name === 'query' && !needsBody)) this.#answering.sent = read;
      const ofPart = isSingle ? given : given?.[name];
      const whole = read.as === 'form' || incoming.method === 'PUT';
      const own: Judging = { ...common, as: read.as };
      if (ofPart !== undefined) own.given = ofPart;
      if (options.shown && (name === 'body' || isSingle)) own.shown = options.shown;
      return { name, intake, read, options: own, ...(amends && name === 'body' && { amends: { ...amends, whole } }) };
    });
  }

  #part(name: PartName, body: ReadPart, hasUploads: boolean): ReadPart {
    const incoming = this.#incoming;
    switch (name) {
      case 'query':
        return urlEncodedPart(incoming.query, this.#setup.limits);
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
}

/** What a handler is told; the form is put together only for one that asks. */
class HandlerTold<Q, C> implements Received<Q, C, unknown> {
  readonly request: Q;
  readonly caller: C;
  readonly params: { readonly [name: string]: string };
  readonly #signal: () => AbortSignal;
  readonly #form: () => ShownForm;
  constructor(
    about: About<Q, C>,
    readonly locale: string,
    readonly warnings: readonly Finding[],
    readonly changed: readonly string[],
    readonly verdict: Verdict<unknown>,
    readonly stored: unknown,
    signal: () => AbortSignal,
    form: () => ShownForm,
  ) {
    this.request = about.request;
    this.caller = about.caller;
    this.params = about.params;
    this.#signal = signal;
    this.#form = form;
  }
  get signal(): AbortSignal {
    return this.#signal();
  }
  get form(): ShownForm {
    return this.#form();
  }
}

function isNobody(caller: unknown): boolean {
  return caller === undefined || caller === null || caller === false || caller === '';
}
