import type { Trial, Unsettled } from '../../core/basics/verdict.ts';
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
