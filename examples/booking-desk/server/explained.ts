import type { Request } from 'express';
import type { Question, Verdict } from 'jestril';
import type { ShownForm } from 'jestril/form';
import type { SqlRecords } from 'jestril/sql';
import { visitOf } from './guard.ts';

// What the side panel shows: the last submission of each visitor, its verdict, its trace and its look-ups.

export interface Explained {
  readonly sent: string;
  readonly entries: readonly (readonly [string, string])[];
  readonly status: number;
  readonly verdict: Verdict<unknown> | undefined;
  readonly questions: readonly Question[];
}

/** Visitors remembered; the panel is there to look at, and not to keep. */
const MOST = 100;

const explained = new Map<string, Explained>();
const questions = new WeakMap<Request, Question[]>();

/** The records, with a note of what they are asked for a request, in its transaction, too. */
export function watched(request: Request, records: SqlRecords): SqlRecords {
  const asked: Question[] = [];
  questions.set(request, asked);
  return noting(records, asked);
}

function noting(records: SqlRecords, asked: Question[]): SqlRecords {
  return {
    ...records,
    ask(all, signal) {
      asked.push(...all);
      return records.ask(all, signal);
    },
    serially: (run, options) => records.serially((inside, transaction) => run(noting(inside, asked), transaction), options),
  };
}

export function explain(request: Request, status: number, verdict: Verdict<unknown> | undefined, form: ShownForm): void {
  const visitor = visitOf(request);
  explained.delete(visitor);
  const sent = `${request.method} ${request.originalUrl.split('?')[0]}`;
  explained.set(visitor, { sent, entries: form.entries, status, verdict, questions: questions.get(request) ?? [] });
  const [oldest] = explained.keys();
  if (explained.size > MOST && oldest !== undefined) explained.delete(oldest);
}

export function explanationFor(request: Request): Explained | undefined {
  return explained.get(visitOf(request));
}
