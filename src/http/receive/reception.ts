import { fault } from '../../core/basics/fault.ts';
import { isIntake, planOf } from '../../core/intake.ts';
import type { Handle, Incoming, Loose, Setup } from './incoming.ts';
import { limitsOf } from './json.ts';
import type { PartName } from './judging.ts';
import { cataloguesOf, Languages, languagesOf } from './negotiate.ts';
import type { Answer, AnyIntake, PartIntakes, Receivable, ReceiveOptions } from './options.ts';
import { Visit } from './visit.ts';

// What `receive` does whatever the server is: from a request to the handler, or to an answer.

export class Receiver<Q, C> {
  readonly #setup: Setup<Q, C>;

  constructor(parts: Receivable, options: Loose<Q, C>) {
    const isSingle = isIntake(parts);
    const intakes: Setup<Q, C>['intakes'] = isSingle ? [['body', parts as AnyIntake]] : partsOf(parts as PartIntakes);
    const judges = intakes.map(([, intake]) => intake);
    const plans = judges.map(planOf);
    const asking = plans.find(({ record }) => record.length > 0);
    if (asking && !options.records)
      fault(
        `receive: intake "${asking.name}" looks into "${asking.collections[0]?.name}", and no records are given; give them in the option "records".`,
      );
    const hasUploads = intakes.some(([name]) => name === 'uploads');
    const hasBody = hasUploads || intakes.some(([name]) => name === 'body');
    this.#setup = {
      options,
      intakes,
      isSingle,
      languages: new Languages(options.languages ?? languagesOf(judges)),
      catalogues: cataloguesOf(judges),
      limits: limitsOf(options.limits),
      name: plans.map(({ name }) => name).join(', '),
      methods: hasBody ? (options.methods ?? ['POST', 'PUT', 'PATCH']).map((method) => method.toUpperCase()) : undefined,
      origins: originsOf(options.origins),
      judging: {
        report: options.report ?? 'firstOfEach',
        ...(options.zone !== undefined && { zone: options.zone }),
        ...(options.within !== undefined && { within: options.within }),
        ...(options.explain && { explain: true }),
        ...(options.occasion !== undefined && { occasion: options.occasion }),
      },
      needsBody: hasBody,
      hasUploads,
      usual: new Map(),
      isAsking: plans.some(({ record, outside }) => record.length + outside.length > 0),
    };
  }

  /**
   * From a request to its answer; `undefined` where `handle` has answered by itself. What it throws becomes the answer of a lost race, or
   * is thrown on.
   */
  answer(incoming: Incoming<Q>, handle: Handle<Q, C>): Promise<Answer | undefined> {
    return new Visit(this.#setup, incoming).answer(handle);
  }
}

function originsOf(origins: ReceiveOptions<unknown, unknown>['origins'] = []): readonly string[] | 'any' {
  if (origins === 'any') return 'any';
  return origins.map((origin) =>
    URL.canParse(origin) && [new URL(origin).origin, `${new URL(origin).origin}/`].includes(origin.toLowerCase())
      ? new URL(origin).origin
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
