import type { Options } from '../../core/judging/options.ts';
import type { Catalogue } from '../../core/messages/catalogues/catalogue.ts';
import type { Keeping } from './files.ts';
import type { ReadPart } from './form-part.ts';
import type { Limits } from './json.ts';
import type { PartName } from './judging.ts';
import type { Languages } from './negotiate.ts';
import type { About, AnyIntake, Done, Received, ReceiveOptions } from './options.ts';
import type { Stores } from './storing.ts';
/** A request, as every server can tell it: asked for what is needed, since most of it is not. */
export interface Incoming<Q> {
  readonly request: Q;
  readonly method: string;
  /** What stands after the question mark. */
  readonly query: string;
  readonly params: { readonly [name: string]: string };
  header(name: string): string | undefined;
  headers(): { readonly [name: string]: string };
  cookies(): { readonly [name: string]: string | undefined };
  /** What the sender has asked for, without its host. */
  path(): string;
  /** As the router has it, else the path without its query. */
  route(): string;
  /** The host that the sender has asked. */
  host(): string | undefined;
  body(limits: Required<Limits>, keeping: Keeping | undefined): Promise<ReadPart>;
  signal(): AbortSignal;
}

/** The handler's turn: it gives what is done, or that it has answered. */
export type Handle<Q, C> = (value: unknown, received: Received<Q, C, unknown>) => Promise<Done | Answered>;

/** The handler has answered by itself. */
export class Answered {
  /** The status, once it is known; `undefined` where the sender went away before. */
  readonly status: Promise<number | undefined>;

  constructor(status: Promise<number | undefined> | number) {
    this.status = Promise.resolve(status);
  }
}

/** Options as they are used; they are checked where `receive` is called. */
// biome-ignore lint/suspicious/noExplicitAny: what is given differs from intake to intake
export type Loose<Q, C> = ReceiveOptions<Q, C> & { readonly given?: (about: About<Q, C>) => any } & Stores;

/** The options of one judgement, as they are put together. */
export type Judging = { -readonly [N in keyof Options]?: Options[N] } & { given?: unknown };

/** What all requests to one handler have in common. */
export interface Setup<Q, C> {
  readonly options: Loose<Q, C>;
  readonly intakes: readonly (readonly [PartName, AnyIntake])[];
  readonly isSingle: boolean;
  readonly languages: Languages;
  /** Those of the intakes. */
  readonly catalogues: readonly Catalogue[];
  readonly limits: Required<Limits>;
  /** The names of the intakes, for the log. */
  readonly name: string;
  /** What judging is told in any case. */
  readonly judging: Pick<Options, 'report' | 'zone' | 'within' | 'explain' | 'occasion'>;
  readonly needsBody: boolean;
  readonly hasUploads: boolean;
  /** What judging is told, by part, transport and language. */
  readonly usual: Map<string, Judging>;
  /** Whether some rule asks records, or something outside. */
  readonly isAsking: boolean;
  /** The methods that are answered; all, where no body is judged. */
  readonly methods: readonly string[] | undefined;
  /** Hosts whose pages may send forms. */
  readonly origins: readonly string[] | 'any';
}
