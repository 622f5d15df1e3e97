import { fault } from '../../core/fault.ts';
import { isIntake, planOf } from '../../core/intake.ts';
import type { Read } from './body.ts';
import type { Keeping } from './files.ts';
import { DEFAULT_LIMITS, type Limits } from './json.ts';
import type { PartName } from './judging.ts';
import { Languages, languagesOf } from './negotiate.ts';
import type { About, Answer, AnyIntake, Done, PartIntakes, Receivable, Received, ReceiveOptions } from './options.ts';
import { Visit } from './visit.ts';

// What `receive` does whatever the server is: from a request to the handler, or to an answer.

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
  readonly body: (limits: Required<Limits>, keeping: Keeping | undefined) => Promise<Read>;
  readonly signal: () => AbortSignal;
}

/** What comes of a request: the handler's turn, or an answer. */
export type Reception<Q, C> =
  | { readonly value: unknown; readonly received: Received<Q, C>; readonly finish: Finish }
  | { readonly answer: Answer };

/** Turns what the handler gives or throws into an answer. */
export interface Finish {
  done(done: Done): Promise<Answer>;
  /** The answer for a lost race; `undefined` for any other error. */
  failed(error: unknown): Promise<Answer | undefined>;
}

// biome-ignore lint/suspicious/noExplicitAny: options are checked where `receive` is called
export type Loose<Q, C> = ReceiveOptions<Q, C> & { readonly given?: (about: About<Q, C>) => any };

/** What all requests to one handler have in common. */
export interface Setup<Q, C> {
  readonly options: Loose<Q, C>;
  readonly intakes: readonly (readonly [PartName | 'main', AnyIntake])[];
  readonly isSingle: boolean;
  readonly languages: Languages;
  readonly limits: Required<Limits>;
  /** The names of the intakes, for the log. */
  readonly name: string;
  /** Whether some rule asks records, or something outside. */
  readonly isAsking: boolean;
  /** The methods that are answered; all, where no body is judged. */
  readonly methods: readonly string[] | undefined;
  /** Hosts whose pages may send forms. */
  readonly origins: readonly string[] | 'any';
}

export class Receiver<Q, C> {
  readonly #setup: Setup<Q, C>;

  constructor(parts: Receivable, options: Loose<Q, C>) {
    const isSingle = isIntake(parts);
    const intakes: Setup<Q, C>['intakes'] = isSingle ? [['main', parts as AnyIntake]] : partsOf(parts as PartIntakes);
    const plans = intakes.map(([, intake]) => planOf(intake));
    const asking = plans.find(({ record }) => record.length > 0);
    if (asking && !options.records)
      fault(
        `receive: intake "${asking.name}" looks into "${asking.collections[0]?.name}", and no records are given; give them in the option "records".`,
      );
    const hasBody = intakes.some(([name]) => name === 'main' || name === 'body' || name === 'uploads');
    this.#setup = {
      options,
      intakes,
      isSingle,
      languages: new Languages(options.languages ?? languagesOf(intakes.map(([, intake]) => intake))),
      limits: { ...DEFAULT_LIMITS, ...options.limits },
      name: plans.map(({ name }) => name).join(', '),
      methods: hasBody ? (options.methods ?? ['POST', 'PUT', 'PATCH']).map((method) => method.toUpperCase()) : undefined,
      origins: originsOf(options.origins),
      isAsking: plans.some(({ record, outside }) => record.length + outside.length > 0),
    };
  }

  /**
   * From a request to its answer; `undefined` where `handle` has answered by itself. What it throws becomes the answer of a lost race, or
   * is thrown on.
   *
   * @param handle the handler's turn: gives what is done, or `undefined`
   */
  async answer(
    incoming: Incoming<Q>,
    handle: (value: unknown, received: Received<Q, C>) => Promise<Done | undefined>,
  ): Promise<Answer | undefined> {
    const reception = await new Visit(this.#setup, incoming).receive();
    if ('answer' in reception) return reception.answer;
    const { value, received, finish } = reception;
    try {
      const done = await handle(value, received);
      return done && (await finish.done(done));
    } catch (error) {
      const answer = await finish.failed(error);
      if (!answer) throw error;
      return answer;
    }
  }
}

function originsOf(origins: ReceiveOptions<unknown, unknown>['origins'] = []): readonly string[] | 'any' {
  if (origins === 'any') return 'any';
  return origins.map((origin) =>
    URL.canParse(origin)
      ? new URL(origin).host
      : fault(`receive: origins names "${origin}", which is no origin, such as https://pellwick.example.`),
  );
}

const PARTS: readonly string[] = ['body', 'query', 'params', 'headers', 'cookies', 'uploads'];

function partsOf(parts: PartIntakes): (readonly [PartName, AnyIntake])[] {
  const entries = Object.entries(parts) as [PartName, AnyIntake][];
  for (const [name, intake] of entries) {
    if (!PARTS.includes(name) || !isIntake(intake)) fault(`receive: "${name}" is no part with an intake; there are ${PARTS.join(', ')}.`);
  }
  if (entries.length === 0) fault('receive: name an intake, or an intake for each part.');
  return entries;
}
