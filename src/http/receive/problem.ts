import type { Finding } from '../../core/basics/verdict.ts';
import { wordIn } from '../../core/messages/catalogue.ts';
import type { Catalogue } from '../../core/messages/catalogues/catalogue.ts';
import { SHIPPED } from '../../core/messages/catalogues/shipped.ts';
import { textIn } from '../../core/messages/render.ts';

/** What stands in the way of the handler. */
export type ProblemKind =
  /** The body or the address cannot be read: 400, 408, 413 or 415. */
  | 'unreadable'
  /** The method is none of those that are answered: 405. */
  | 'wrong-method'
  /** A page of another site has sent a form: 403. */
  | 'other-origin'
  /** Nobody is known to have sent it: 401. */
  | 'unknown-caller'
  /** The caller may not do this: 403. */
  | 'not-allowed'
  /** What is to be changed is not there: 404. */
  | 'nothing-there'
  /** Some rule does not hold: 422. */
  | 'rejected'
  /** The store refused it after it was accepted: 422, or 409 where the application wants it. */
  | 'lost-race'
  /** Some rule could not be settled: 503. */
  | 'undecided'
  /** What was to be sent does not match its intake: 500. */
  | 'unfit-answer';

/** A finding as it is sent: what a client needs, and no more. */
export interface SentFinding {
  readonly rule: string;
  /** JSON Pointers (RFC 6901) into the part. */
  readonly at: readonly string[];
  /** The part of the request, where several are judged. */
  readonly part?: string;
  readonly message: string;
  readonly severity?: 'warning';
  /** With `findings: 'full'`. */
  readonly use?: string;
  readonly facts?: Finding['facts'];
}

/** Problem details (RFC 9457), with findings as an extension. */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail?: string;
  /** What does not hold, of a rejected request. */
  readonly findings?: readonly SentFinding[];
  /** There are more findings than these. */
  readonly more?: true;
}

/** What people are told, in English; catalogues have it as `problem/…`. */
const TITLES: { readonly [kind in ProblemKind]: string } = {
  unreadable: 'The request cannot be read.',
  'wrong-method': 'This cannot be done at this address.',
  'other-origin': 'This was sent from another site.',
  'unknown-caller': 'Please sign in first.',
  'not-allowed': 'You may not do this.',
  'nothing-there': 'There is nothing at this address.',
  rejected: 'Some of this cannot be accepted as it is.',
  'lost-race': 'Somebody else was faster.',
  undecided: 'This could not be checked just now. Please send it again in a moment.',
  'unfit-answer': 'The answer could not be given.',
};

/** The title of a problem, in a language of the catalogues given, or of the package. */
export function titleIn(locale: string, kind: ProblemKind, catalogues: readonly Catalogue[] = []): string {
  return textIn(wordIn([...SHIPPED, ...catalogues], `problem/${kind}`, TITLES[kind]), locale);
}

/** Thrown while a request is read; becomes a problem. */
export class Unreadable extends Error {
  constructor(
    readonly status: 400 | 408 | 413 | 415,
    detail: string,
  ) {
    super(detail);
  }
}

/** Thrown where a store of files takes longer than a request may; answered like everything that could not be decided. */
export class Late extends Error {
  constructor() {
    super('The store of files has not answered in time.');
  }
}

export function sentFinding({ rule, use, severity, places, facts, message }: Finding, isFull: boolean): SentFinding {
  const [first] = places;
  return {
    rule,
    at: places.map(({ pointer }) => pointer),
    ...(first?.part !== undefined && { part: first.part }),
    message,
    ...(severity === 'warning' && { severity }),
    ...(isFull && { use, facts }),
  };
}
