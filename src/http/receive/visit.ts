import type { Finding, Verdict } from '../../core/basics/verdict.ts';
import type { Records } from '../../core/stored/records.ts';
import { formObject } from '../../forms/form.ts';
import type { ShownForm } from '../../forms/shown-form.ts';
import { Answering } from './answering.ts';
import { NO_BODY, urlEncodedPart } from './body.ts';
import { Keeping } from './files.ts';
import type { ReadPart } from './form-part.ts';
import { Answered, type Handle, type Incoming, type Judging, type Setup } from './incoming.ts';
import { judgeParts, type PartName, type PartToJudge } from './judging.ts';
import { Logging } from './log.ts';
import type { About, Amends, Answer, Received } from './options.ts';
import { isOfThisSite } from './origin.ts';
import { Late, Unreadable } from './problem.ts';
import { type JudgedParts, judgeAndStoreParts } from './storing.ts';

/** Languages, times the parts of a request. */
const MOST_REMEMBERED = 200;

/** What was accepted, and waits for the handler. */
interface Accepted<Q, C> {
  readonly value: unknown;
  readonly received: Received<Q, C, unknown>;
  readonly parts: readonly PartToJudge[];
}

/** One request, from the question who sends it to its answer. */
export class Visit<Q, C> {
  readonly #setup: Setup<Q, C>;
  readonly #incoming: Incoming<Q>;
  readonly #answering: Answering<Q, C>;
  readonly #log: Logging<Q, C>;
  #keeping: Keeping | undefined;
  /** What was accepted may be stored. */
  #isStored = false;

  constructor(setup: Setup<Q, C>, incoming: Incoming<Q>) {
    this.#setup = setup;
    this.#incoming = incoming;
    this.#log = new Logging(setup.options.log, incoming, setup.name);
    this.#answering = new Answering(setup, incoming, this.#log);
  }

  async answer(handle: Handle<Q, C>): Promise<Answer | undefined> {
    let accepted: Accepted<Q, C> | undefined;
    try {
      const received = await this.#receive();
      if ('status' in received) return this.#end(received);
      accepted = received;
      this.#log.judged();
      const done = await handle(accepted.value, accepted.received);
      if (!(done instanceof Answered)) {
        const answer = this.#answering.done(done);
        return this.#end('then' in answer ? await answer : answer);
      }
      void done.status.then((status) => this.#over(status));
      return undefined;
    } catch (error) {
      const answer = accepted && (await this.#answering.failed(error, accepted.parts, accepted.value));
      if (answer) return this.#end(answer);
      await this.#over(undefined, { error });
      throw error;
    }
  }

  #end(answer: Answer): Answer | Promise<Answer> {
    const over = this.#over(answer.status);
    return over ? over.then(() => answer) : answer;
  }

  /** Whatever it waits for never rejects. */
  #over(status: number | undefined, thrown?: { readonly error: unknown }): Promise<void> | undefined {
    // What is stored stays, whatever is answered; what an earlier request has stored needs no second file.
    const isUsed = this.#setup.options.store ? this.#isStored : status !== undefined && status < 400;
    const ending = this.#keeping?.end(isUsed);
    if (ending) return ending.then(() => this.#log.write(status, thrown));
    this.#log.write(status, thrown);
    return undefined;
  }

  async #receive(): Promise<Answer | Accepted<Q, C>> {
    const { request, params, method } = this.#incoming;
    const { options, methods } = this.#setup;
    const answering = this.#answering;
    if (methods && !methods.includes(method)) return this.#otherMethod(method, methods);
    if (!isOfThisSite(this.#incoming, this.#setup.origins)) return answering.stop('other-origin');
    const caller = options.caller ? await options.caller(request) : (undefined as C);
    if (options.caller && isNobody(caller)) return answering.stop('unknown-caller');
    const about: About<Q, C> = { request, caller: caller as C, params };
    this.#log.caller = about.caller;
    answering.about = about;
    if (options.allows && !(await options.allows(about))) return answering.stop('not-allowed');
    const amends = options.amends && (await options.amends(about));
    if (options.amends && !amends) return answering.stop('nothing-there');
    try {
      return await this.#judge(about, await this.#read(about, amends));
    } catch (error) {
      if (error instanceof Late) return answering.stop('undecided');
      if (!(error instanceof Unreadable)) throw error;
      // What was not read must not be taken for the next request.
      const isCut = error.status === 413 || error.status === 408;
      return answering.stop('unreadable', undefined, {
        status: error.status,
        detail: error.message,
        headers: isCut ? { connection: 'close' } : {},
      });
    }
  }

  /** OPTIONS asks which methods there are (RFC 9110, 9.3.7). */
  #otherMethod(method: string, methods: readonly string[]): Promise<Answer> | Answer {
    const allow = methods.join(', ');
    if (method !== 'OPTIONS') return this.#answering.stop('wrong-method', undefined, { headers: { allow } });
    this.#log.is('options');
    return { status: 204, headers: { allow }, body: '' };
  }

  async #judge(about: About<Q, C>, parts: PartToJudge[]): Promise<Answer | Accepted<Q, C>> {
    const { isSingle, options } = this.#setup;
    const answering = this.#answering;
    const judge = (): Promise<JudgedParts> => (options.store ? this.#store(about, parts) : judgeParts(parts, isSingle));
    const { verdict, changed, stored, isStored } = await (options.telemetry?.judging(this.#setup.name, judge, ({ verdict }) => verdict) ??
      judge());
    if (verdict.outcome !== 'accepted') {
      const isLost = isStored && verdict.outcome === 'rejected';
      return answering.stop(isLost ? 'lost-race' : verdict.outcome, verdict);
    }
    this.#isStored = isStored ?? false;
    this.#log.is('accepted', verdict);
    if (this.#keeping && !options.store) await this.#keeping.handOver(verdict.value);
    const received = new HandlerTold(about, changed, verdict, stored, this.#incoming, answering);
    return { value: verdict.value, received, parts };
  }

  #store(about: About<Q, C>, parts: PartToJudge[]): Promise<JudgedParts> {
    const { isSingle, options } = this.#setup;
    const handOver = (value: unknown) => this.#keeping?.handOver(value);
    return judgeAndStoreParts(parts, isSingle, about, options, () => this.#incoming.signal(), handOver).catch((error) => {
      // Nobody knows: what may be stored keeps its files.
      this.#isStored = (error as Error)?.name === 'InDoubt';
      throw error;
    });
  }

  /** Reads every part that has an intake. */
  async #read(about: About<Q, C>, amends: Amends | undefined): Promise<PartToJudge[]> {
    const incoming = this.#incoming;
    const { intakes, options, isSingle, limits, needsBody } = this.#setup;
    if (needsBody && options.files) this.#keeping = new Keeping(options.files);
    const body = needsBody ? await incoming.body(limits, this.#keeping) : NO_BODY;
    this.#log.size = body.size;
    const given = options.given && (await options.given(about));
    const own = this.#ownOf(about);
    return intakes.map(([name, intake]) => {
      const read = this.#part(name, body);
      // A form that only asks is sent as a query.
      if (name === 'body' || (name === 'query' && !needsBody)) this.#answering.sent = read;
      const part = { name, intake, read, options: this.#judging(name, read.as, isSingle ? given : given?.[name], own) };
      if (!amends || name !== 'body') return part;
      return { ...part, amends: { ...amends, whole: read.as === 'form' || incoming.method === 'PUT' } };
    });
  }

  /** What judging is told of this request alone, whatever its parts are. */
  #ownOf(about: About<Q, C>): Judging | undefined {
    const { options, isAsking } = this.#setup;
    const hasRecords = typeof options.records === 'function';
    if (!isAsking && !options.now && !hasRecords) return undefined;
    const own: Judging = {};
    if (isAsking) own.signal = this.#incoming.signal();
    if (hasRecords) own.records = this.#told((options.records as (about: About<Q, C>) => Records)(about));
    if (options.now) own.now = options.now();
    return own;
  }

  #told(records: Records): Records {
    return this.#setup.options.telemetry?.records(records) ?? records;
  }

  /** What judging is told: the same object where it is the same for all requests of a language. */
  #judging(name: PartName, as: 'json' | 'form', given: unknown, own: Judging | undefined): Judging {
    const { options, isSingle, usual, judging } = this.#setup;
    const { locale } = this.#answering;
    const key = `${name} ${as} ${locale}`;
    let common = usual.get(key);
    if (!common) {
      common = { ...judging, locale, as };
      if (options.shown && (name === 'body' || isSingle)) common.shown = options.shown;
      if (options.records && typeof options.records !== 'function') common.records = this.#told(options.records);
      if (usual.size < MOST_REMEMBERED) usual.set(key, common);
    }
    if (!own && given === undefined) return common;
    return given === undefined ? { ...common, ...own } : { ...common, ...own, given };
  }

  #part(name: PartName, body: ReadPart): ReadPart {
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
        return { submission: formObject((body.pairs ?? []).filter(isFile)), as: 'form' };
      case 'body':
        return this.#setup.hasUploads && body.pairs
          ? { ...body, submission: formObject(body.pairs.filter((pair) => !isFile(pair))) }
          : body;
    }
  }
}

/** What a handler is told; form and signal are put together only for one that asks. */
class HandlerTold<Q, C> implements Received<Q, C, unknown> {
  readonly request: Q;
  readonly caller: C;
  readonly params: { readonly [name: string]: string };
  readonly #incoming: Incoming<Q>;
  readonly #answering: Answering<Q, C>;
  constructor(
    { request, caller, params }: About<Q, C>,
    readonly changed: readonly string[],
    readonly verdict: Verdict<unknown> & { readonly outcome: 'accepted' },
    readonly stored: unknown,
    incoming: Incoming<Q>,
    answering: Answering<Q, C>,
  ) {
    this.request = request;
    this.caller = caller;
    this.params = params;
    this.#incoming = incoming;
    this.#answering = answering;
  }
  get locale(): string {
    return this.#answering.locale;
  }
  get warnings(): readonly Finding[] {
    return this.verdict.warnings;
  }
  get signal(): AbortSignal {
    return this.#incoming.signal();
  }
  get form(): ShownForm {
    return this.#answering.form([]);
  }
}

function isFile([, value]: readonly [string, unknown]): boolean {
  return typeof value !== 'string';
}

function isNobody(caller: unknown): boolean {
  return caller === undefined || caller === null || caller === false || caller === '';
}
