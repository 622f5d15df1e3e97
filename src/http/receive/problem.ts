import type { Texts } from '../../core/basics/text.ts';
import type { Finding, Trial, Unsettled } from '../../core/basics/verdict.ts';

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

/** What people are told, in the language of the request. */
export const TITLES: { readonly [kind in ProblemKind]: Texts } = {
  unreadable: {
    en: 'The request cannot be read.',
    de: 'Die Anfrage ist nicht lesbar.',
    pl: 'Nie można odczytać żądania.',
  },
  'wrong-method': {
    en: 'This cannot be done at this address.',
    de: 'Das ist unter dieser Adresse nicht möglich.',
    pl: 'Pod tym adresem nie można tego zrobić.',
  },
  'other-origin': {
    en: 'This was sent from another site.',
    de: 'Das wurde von einer anderen Website gesendet.',
    pl: 'To zostało wysłane z innej witryny.',
  },
  'unknown-caller': { en: 'Please sign in first.', de: 'Bitte erst anmelden.', pl: 'Proszę się najpierw zalogować.' },
  'not-allowed': { en: 'You may not do this.', de: 'Das ist Ihnen nicht erlaubt.', pl: 'Brak uprawnień do tej czynności.' },
  'nothing-there': {
    en: 'There is nothing at this address.',
    de: 'Unter dieser Adresse gibt es nichts.',
    pl: 'Pod tym adresem nic nie ma.',
  },
  rejected: {
    en: 'Some of this cannot be accepted as it is.',
    de: 'Einiges davon kann so nicht angenommen werden.',
    pl: 'Części danych nie można przyjąć w tej postaci.',
  },
  'lost-race': { en: 'Somebody else was faster.', de: 'Jemand anderes war schneller.', pl: 'Ktoś inny był szybszy.' },
  undecided: {
    en: 'This could not be checked just now. Please send it again in a moment.',
    de: 'Das konnte gerade nicht geprüft werden. Bitte gleich noch einmal senden.',
    pl: 'Nie udało się tego teraz sprawdzić. Proszę wysłać ponownie za chwilę.',
  },
  'unfit-answer': {
    en: 'The answer could not be given.',
    de: 'Die Antwort konnte nicht gegeben werden.',
    pl: 'Nie udało się udzielić odpowiedzi.',
  },
};

/** Thrown while a request is read; becomes a problem. */
export class Unreadable extends Error {
  constructor(
    readonly status: 400 | 408 | 413 | 415,
    detail: string,
  ) {
    super(detail);
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

/** One entry for the log: ids, outcome and duration; no value, no body, no message. */
export interface LogEntry {
  readonly intake: string;
  readonly outcome: 'accepted' | ProblemKind;
  readonly status: number | undefined;
  /** The uses that did not hold. */
  readonly failed: readonly string[];
  readonly unsettled: readonly { readonly use: string; readonly why: Unsettled['why'] }[];
  /** What became of the uses on trial, where there are some. */
  readonly trials?: readonly Pick<Trial, 'use' | 'outcome'>[];
  /** From the first look at the request to the handler, or to the answer. */
  readonly milliseconds: number;
  /** Why uses are unsettled. Not enumerable: drivers quote parameters in their errors. */
  readonly causes?: readonly unknown[];
}
