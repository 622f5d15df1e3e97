import type { Options } from '../../core/judging/options.ts';
import type { Catalogue } from '../../core/messages/catalogues/catalogue.ts';
import type { Keeping } from './files.ts';
import type { ReadPart } from './form-part.ts';
import type { Limits } from './json.ts';
import type { PartName } from './judging.ts';
import type { Languages } from './negotiate.ts';
import type { About, Answer, AnyIntake, Done, Received, ReceiveOptions } from './options.ts';
import type { Stores } from './storing.ts';
/** A request, as every server can tell it. */
export interface Incoming<Q> {
  readonly request: Q;
  readonly method: string;
  /** What stands after the question mark. */
  readonly query: string;
  readonly params: { readonly [name: string]: string };
  readonly header: (name: string) => string | undefined;
  readonly headers: () => { readonly [name: string]: string };
  readonly cookies: () => { readonly [name: string]: string | undefined };
  /** What the sender has asked for, without its host. */
  readonly path: () => string;
  /** The host that the sender has asked. */
  readonly host: () => string | undefined;
  readonly body: (limits: Required<Limits>, keeping: Keeping | undefined) => Promise<ReadPart>;
  readonly signal: () => AbortSignal;
}

/** What comes of a request: the handler's turn, or an answer. */
export type Reception<Q, C> =
  | { readonly value: unknown; readonly received: Received<Q, C, unknown>; readonly finish: Finish }
  | { readonly answer: Answer };

/** Turns what the handler gives or throws into an answer. */
export interface Finish {
  done(done: Done): Promise<Answer>;
  /** The answer for a lost race; `undefined` for any other error. */
  failed(error: unknown): Promise<Answer | undefined>;
}

/** Options as they are used; they are checked where `receive` is called. */
// biome-ignore lint/suspicious/noExplicitAny: what is given differs from intake to intake
export type Loose<Q, C> = ReceiveOptions<Q, C> & { readonly given?: (about: About<Q, C>) => any } & Stores;

/** What all requests to one handler have in common. */
export interface Setup<Q, C> {
  readonly options: Loose<Q, C>;
  readonly intakes: readonly (readonly [PartName | 'main', AnyIntake])[];
  readonly isSingle: boolean;
  readonly languages: Languages;
  /** Those of the intakes. */
  readonly catalogues: readonly Catalogue[];
  readonly limits: Required<Limits>;
  /** The names of the intakes, for the log. */
  readonly name: string;
  /** What judging is told in any case. */
  readonly judging: Pick<Options, 'report' | 'zone' | 'within' | 'explain' | 'occasion'>;
  /** Whether some rule asks records, or something outside. */
  readonly isAsking: boolean;
  /** The methods that are answered; all, where no body is judged. */
  readonly methods: readonly string[] | undefined;
  /** Hosts whose pages may send forms. */
  readonly origins: readonly string[] | 'any';
}
