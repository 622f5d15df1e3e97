import { Answered } from './receive/incoming.ts';
import { type Found, incomingOf, type NodeRequest, type NodeResponse, send, statusOf } from './receive/message.ts';
import type { Done, OptionsFor, Receivable, Received, ReceivedOf, ReceiveOptions } from './receive/options.ts';
import { Receiver } from './receive/reception.ts';

export type { FileStore, IncomingFile } from './receive/files.ts';
export type { Limits } from './receive/json.ts';
export type { LogAbout, LogEntry } from './receive/log-entry.ts';
export type { Found, NodeRequest, NodeResponse } from './receive/message.ts';
export type { About, Amends, Answer, Done, PartIntakes, Received, ReceiveOptions, ShownAgain, Storing } from './receive/options.ts';
export type { Problem, ProblemKind, SentFinding } from './receive/problem.ts';

/** What the handler is told besides the value. */
export interface NodeReceived<C, S = undefined> extends Received<NodeRequest, C, S> {
  readonly response: NodeResponse;
}

/**
 * Puts intakes in front of a handler of Node's own servers (`node:http`, `node:https`, `node:http2`) and of whatever is built on them. The
 * handler runs with accepted, typed data only; everything else is answered. It answers by itself, or returns what is `Done`. What it
 * throws is thrown on, unless it is a lost race.
 *
 * @param parts one intake for the body of POST, PUT and PATCH, or one for each part of the request
 */
export function receive<P extends Receivable, C = undefined, T = undefined, S = undefined>(
  parts: P,
  options: OptionsFor<P, NodeRequest, C, T, S>,
  // biome-ignore lint/suspicious/noConfusingVoidType: a handler that answers by itself returns nothing
  handler: (value: ReceivedOf<P>, received: NodeReceived<C, S>) => Promise<Done | void> | Done | void,
): (request: NodeRequest, response: NodeResponse, found?: Found) => Promise<void> {
  const receiver = new Receiver<NodeRequest, C>(parts, options as ReceiveOptions<NodeRequest, C>);
  return async function received(request, response, found = {}) {
    const answer = await receiver.answer(incomingOf(request, response, found), async (value, told) => {
      const done = await handler(value as ReceivedOf<P>, Object.assign(told as Received<NodeRequest, C, S>, { response }));
      return done ?? new Answered(statusOf(response));
    });
    if (answer) send(request, response, answer);
  };
}
