import type { Verdict } from '../../core/basics/verdict.ts';
import { lengthIn } from './headers.ts';
import type { Incoming } from './incoming.ts';
import type { LogAbout, LogEntry } from './log-entry.ts';

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
  write(status: number | undefined, thrown?: { readonly error: unknown }): void {
    if (!this.#log) return;
    if (thrown) this.outcome = 'error';
    const about = { request: this.#incoming.request, caller: this.caller, ...thrown };
    try {
      Promise.resolve(this.#log(this.#entry(status), about)).catch(unlogged);
    } catch (cause) {
      unlogged(cause);
    }
  }

  #entry(status: number | undefined): LogEntry {
    const incoming = this.#incoming;
    const { verdict } = this;
    const unsettled = verdict?.unsettled ?? [];
    const entry: LogEntry = {
      id: idIn(incoming.header('x-request-id')),
      method: printable(incoming.method),
      route: printable(incoming.route()),
      intake: this.intake,
      outcome: this.outcome,
      status,
      failed: verdict?.outcome === 'rejected' ? verdict.findings.map(({ use }) => use) : [],
      unsettled: unsettled.map(({ use, why }) => ({ use, why })),
      ...(verdict?.trials && { trials: verdict.trials.map(({ use, outcome }) => ({ use, outcome })) }),
      ...(this.detail !== undefined && { detail: this.detail }),
      size: this.size ?? lengthIn(incoming.header('content-length')) ?? 0,
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

/** A method or an address on one short line, whatever a sender has put into it. */
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
