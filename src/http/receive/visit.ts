import type { Finding, Verdict } from '../../core/verdict.ts';
import { formObject } from '../form.ts';
import type { ShownForm } from '../shown-form.ts';
import { Answering } from './answering.ts';
import { type Read, urlEncodedPart } from './body.ts';
import { judgeParts, type PartName, type PartToJudge } from './judging.ts';
import type { About, Amends, Received } from './options.ts';
import { type ProblemKind, Unreadable } from './problem.ts';
import type { Incoming, Reception, Setup } from './reception.ts';

/** One request, from the question who sends it to the handler's turn. */
export class Visit<Q, C> {
  readonly #setup: Setup<Q, C>;
  readonly #incoming: Incoming<Q>;
  readonly #answering: Answering<Q, C>;

  constructor(setup: Setup<Q, C>, incoming: Incoming<Q>) {
    this.#setup = setup;
    this.#incoming = incoming;
    this.#answering = new Answering(setup, incoming);
  }

  async receive(): Promise<Reception<Q, C>> {
    const { request, params } = this.#incoming;
    const { options } = this.#setup;
    const caller = options.caller ? await options.caller(request) : (undefined as C);
    if (options.caller && caller === undefined) return this.#stop('unknown-caller');
    const about: About<Q, C> = { request, caller: caller as C, params };
    this.#answering.about = about;
    if (options.allows && !(await options.allows(about))) return this.#stop('not-allowed');
    const amends = options.amends && (await options.amends(about));
    if (options.amends && !amends) return this.#stop('nothing-there');
    try {
      return await this.#judge(about, await this.#read(about, amends));
    } catch (error) {
      if (error instanceof Unreadable) return this.#stop('unreadable', undefined, { status: error.status, detail: error.message });
      throw error;
    }
  }

  async #stop(kind: ProblemKind, verdict?: Verdict<unknown>, more: { readonly status?: number; readonly detail?: string } = {}) {
    return { answer: await this.#answering.stop(kind, verdict, more) };
  }

  async #judge(about: About<Q, C>, parts: PartToJudge[]): Promise<Reception<Q, C>> {
    const { verdict, changed } = await judgeParts(parts, this.#setup.isSingle);
    if (verdict.outcome !== 'accepted') return this.#stop(verdict.outcome, verdict);
    const answering = this.#answering;
    answering.log('accepted', undefined, verdict);
    const received = new Told<Q, C>(about, answering.locale, verdict.warnings, changed, verdict, this.#incoming.signal, () =>
      answering.form([]),
    );
    return {
      value: verdict.value,
      received,
      finish: {
        done: (done) => answering.done(done),
        failed: (error) => answering.failed(error, parts, verdict.value),
      },
    };
  }

  /** Reads every part that has an intake. */
  async #read(about: About<Q, C>, amends: Amends | undefined): Promise<PartToJudge[]> {
    const incoming = this.#incoming;
    const { intakes, options, isSingle, limits } = this.#setup;
    const isBodiless = incoming.method === 'GET' || incoming.method === 'HEAD';
    const names = intakes.map(([name]) => (name === 'main' ? (isBodiless ? 'query' : 'body') : name));
    const needsBody = names.includes('body') || names.includes('uploads');
    const body = needsBody ? await incoming.body(limits) : NO_BODY;
    const hasUploads = names.includes('uploads');
    const given = await options.given?.(about);
    const records = typeof options.records === 'function' ? options.records(about) : options.records;
    const common = {
      report: options.report ?? 'firstOfEach',
      locale: this.#answering.locale,
      ...(this.#setup.isAsking && { signal: incoming.signal() }),
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
        this.#answering.sent = read;
      }
      const ofPart = isSingle ? given : given?.[name];
      const whole = read.as === 'form' || incoming.method === 'PUT';
      return {
        name,
        intake,
        read,
        options: {
          ...common,
          ...(ofPart !== undefined && { given: ofPart }),
          ...(options.shown && (name === 'body' || isSingle) && { shown: options.shown }),
        },
        ...(amends && name === 'body' && { amends: { ...amends, whole } }),
      };
    });
  }

  #part(name: PartName, body: Read, hasUploads: boolean): Read {
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
class Told<Q, C> implements Received<Q, C> {
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

const NO_BODY: Read = { submission: {}, as: 'json' };
