import type { Trial, Unsettled, Verdict } from '../../core/basics/verdict.ts';
import type { Incoming } from './incoming.ts';
import type { ProblemKind } from './problem.ts';

/** One entry for each request, once its answer is known: ids, outcome and durations; no value, no body, no message. */
export interface LogEntry {
  /** The sender's `X-Request-Id`, where it is one; else a new one. */
  readonly id: string;
  readonly method: string;
  /** As the router has it (`/bookings/:id`), else the path of the address without its query. */
  readonly route: string;
  readonly intake: string;
  /** `options` told the methods; `error`: something of the application threw, and the framework answers. */
  readonly outcome: 'accepted' | 'options' | 'error' | ProblemKind;
  /** `undefined` where an error is the framework's, or the sender went away before an answer. */
  readonly status: number | undefined;
  /** The uses that did not hold. */
  readonly failed: readonly string[];
  readonly unsettled: readonly { readonly use: string; readonly why: Unsettled['why'] }[];
  /** What became of the uses on trial, where there are some. */
  readonly trials?: readonly Pick<Trial, 'use' | 'outcome'>[];
  /** What was unreadable. */
  readonly detail?: string;
  /** Bytes of the body, as far as they were told or read. */
  readonly size: number;
  /** From the first look at the request to its answer. */
  readonly milliseconds: number;
  /** Of these, until the handler's turn. */
  readonly judging?: number;
  /** Why uses are unsettled. Not enumerable: drivers quote parameters in their errors. */
  readonly causes?: readonly unknown[];
}

/** Of what an entry tells; none of it is for the log as it is. */
export interface LogAbout<Q, C> {
  readonly request: Q;
  /** Who has sent it, where that came to be known. */
  readonly caller: C | undefined;
  /** What something of the application has thrown. */
  readonly error?: unknown;
}

type Log<Q, C> = (entry: LogEntry, about: LogAbout<Q, C>) => unknown;

/** What comes to be known of one request, for its entry. */
export class Logging<Q, C> {
  readonly #log: Log<Q, C> | undefined;
  readonly #incoming: Incoming<Q>;
  readonly #start = performance.now();
  #judging: number | undefined;
  intake: string;
  caller: C | undefined;
  outcome: LogEntry['outcome'] = 'error';
  verdict: Verdict<unknown> | undefined;
  detail: string | undefined;
  size: number | undefined;

  constructor(log: Log<Q, C> | undefined, incoming: Incoming<Q>, intake: string) {
    this.#log = log;
    this.#incoming = incoming;
    this.intake = intake;
  }

  /** What the request has come to, so far. */
  is(outcome: LogEntry['outcome'], verdict?: Verdict<unknown>, intake = this.intake): void {
    this.outcome = outcome;
    this.verdict = verdict;
    this.intake = intake;
  }

  /** The handler's turn begins. */
  judged(): void {
    this.#judging = this.#elapsed();
  }

  /** Whatever becomes of the entry changes nothing. */
  write(status: number | undefined, error?: unknown): void {
    if (!this.#log) return;
    if (error !== undefined) this.outcome = 'error';
    const about = { request: this.#incoming.request, caller: this.caller, ...(error !== undefined && { error }) };
    try {
      Promise.resolve(this.#log(this.#entry(status), about)).catch(unlogged);
    } catch (cause) {
      unlogged(cause);
    }
  }

  #entry(status: number | undefined): LogEntry {
    const { method, header, route } = this.#incoming;
    const { verdict } = this;
    const unsettled = verdict?.unsettled ?? [];
    const told = header('content-length') ?? '';
    const entry: LogEntry = {
      id: idIn(header('x-request-id')),
      method,
      route: printable(route()),
      intake: this.intake,
      outcome: this.outcome,
      status,
      failed: verdict?.outcome === 'rejected' ? verdict.findings.map(({ use }) => use) : [],
      unsettled: unsettled.map(({ use, why }) => ({ use, why })),
      ...(verdict?.trials && { trials: verdict.trials.map(({ use, outcome }) => ({ use, outcome })) }),
      ...(this.detail !== undefined && { detail: this.detail }),
      size: this.size ?? (/^\d{1,15}$/.test(told) ? Number(told) : 0),
      milliseconds: this.#elapsed(),
      ...(this.#judging !== undefined && { judging: this.#judging }),
    };
    const causes = unsettled.flatMap(({ cause }) => (cause === undefined ? [] : [cause]));
    if (causes.length > 0) Object.defineProperty(entry, 'causes', { value: causes, enumerable: false });
    return entry;
  }

  #elapsed(): number {
    return Math.round((performance.now() - this.#start) * 100) / 100;
  }
}

function idIn(header: string | undefined): string {
  return header !== undefined && /^[\w.:=+/@-]{1,128}$/.test(header) ? header : crypto.randomUUID();
}

/** An address on one short line, whatever a sender has put into it. */
function printable(text: string): string {
  return text.slice(0, 200).replaceAll(/[\p{C}\p{Zl}\p{Zp}]/gu, '?');
}

let isTold = false;

/** A log that fails must not fail what it tells of. */
function unlogged(cause: unknown): void {
  if (isTold) return;
  isTold = true;
  const said = `The option "log" of receive has failed, and its entries are lost: ${cause instanceof Error ? cause.message : String(cause)}`;
  if (typeof process !== 'undefined') process.emitWarning?.(said, { type: 'JestrilWarning', code: 'UNLOGGED' });
}
