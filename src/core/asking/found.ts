import type { Circumstances, Why } from '../basics/verdict.ts';
import type { LookUpSpec } from '../declared/look-up.ts';
import type { Found, Reads } from '../declared/rule.ts';
import type { LookUpPlan } from '../plan/plan.ts';
import type { Records } from '../stored/records.ts';
import { type Cell, type Itself, isOf, type Questions } from './questions.ts';
import { type NoAnswer, readRow, readSum } from './stored-values.ts';
import type { TimeLimit } from './time-limit.ts';

/** What a look-up came to: a value for the rule, nothing where a row has to be, or no answer. */
export type Outcome = { readonly value: unknown } | { readonly none: true } | { readonly why: Why; readonly cause?: unknown };

const NO_INNER: readonly never[] = [];

/** One look-up of one case, followed through as many rounds as it is nested. */
export class Inquiry {
  readonly #cell: Cell | undefined;
  #outcome: Outcome | undefined;
  #row: { readonly [column: string]: unknown } | undefined;
  /** Of a row that was found: the look-ups inside. */
  #inner: readonly { readonly name: string; readonly inquiry: Inquiry }[] = NO_INNER;

  constructor(
    readonly spec: LookUpSpec,
    readonly read: Reads,
    readonly questions: Questions,
    readonly itself: Itself | undefined,
    readonly isTrial: boolean,
    readonly at: Circumstances,
  ) {
    if (spec.onlyItself && !isOf(spec, itself)) {
      const { name } = spec.collection;
      this.#outcome = {
        why: 'fault',
        cause: new Error(
          `A rule asks for the record of ${name} that is judged again, and nothing says which; give it as "itself", with storedIn.`,
        ),
      };
      return;
    }
    // What is asked with may be absent (`maybe`): then nothing is asked, and nothing is found.
    this.#cell = questions.want(spec, read, itself, isTrial, at);
    if (!this.#cell) this.#outcome = spec.want === 'sum' ? readSum(spec, null) : spec.want === 'one' ? unasked(spec) : NOTHING[spec.want];
    // The same may have been asked in an earlier round.
    this.advance();
  }

  /** Takes the answer of a round; asks what it leads to. */
  advance(): void {
    if (this.#outcome) return;
    if (this.#row) {
      for (const { inquiry } of this.#inner) inquiry.advance();
      return;
    }
    const answer = this.#cell?.answer;
    if (answer === undefined) return;
    if (typeof answer === 'number') this.#outcome = { value: this.spec.want === 'exists' ? answer > 0 : answer };
    else if ('why' in answer) this.#outcome = answer as NoAnswer;
    else if ('sum' in answer) this.#outcome = readSum(this.spec, answer.sum);
    else if (this.spec.want === 'all') this.#outcome = this.#all(answer);
    else this.#one(answer);
  }

  #all(rows: readonly { readonly [column: string]: unknown }[]): Outcome {
    const { most = 0, collection } = this.spec;
    if (rows.length > most && !this.spec.order)
      return {
        why: 'too-many-rows',
        cause: new Error(
          `More than ${most} rows of ${collection.name} match, and a rule would see some of them only; give its look-up \`all\` a larger \`most\`.`,
        ),
      };
    const shown: Reads[] = [];
    for (const stored of rows) {
      const read = readRow(this.spec, stored);
      if ('why' in read) return read;
      shown.push(this.#shown(read.row));
    }
    return { value: Object.freeze(shown) };
  }

  #one(rows: readonly { readonly [column: string]: unknown }[]): void {
    const { want, collection, inner, order } = this.spec;
    const [first] = rows;
    // In an order the first row is the answer, however many there are.
    if (rows.length > 1 && !order) {
      this.#outcome = { why: 'stored-unsound', cause: new Error(`${collection.name} has several rows where a rule expects one.`) };
    } else if (!first) {
      this.#outcome = want === 'one' ? { none: true } : { value: undefined };
    } else {
      const stored = readRow(this.spec, first);
      if ('why' in stored) {
        this.#outcome = stored;
        return;
      }
      if (want === 'highest' || want === 'lowest') {
        this.#outcome = { value: stored.row[this.spec.columns[0] as string] };
        return;
      }
      this.#row = stored.row;
      const read = { ...this.read, ...this.#row };
      this.#inner = Object.entries(inner).map(([name, spec]) => ({
        name,
        inquiry: new Inquiry(spec, read, this.questions, this.itself, this.isTrial, this.at),
      }));
    }
  }

  /** What has come of it, once every round is through. */
  get outcome(): Outcome {
    if (this.#outcome) return this.#outcome;
    if (!this.#row) return NEVER_ASKED();
    const inside: { [name: string]: unknown } = {};
    for (const { name, inquiry } of this.#inner) {
      const { outcome } = inquiry;
      // The submission is not to blame for a stored record that leads nowhere.
      if ('none' in outcome)
        return {
          why: 'stored-unsound',
          cause: new Error(`${this.spec.collection.name} leads to no row of ${inquiry.spec.collection.name}.`),
        };
      if ('why' in outcome) return outcome;
      inside[name] = outcome.value;
    }
    return { value: this.#shown(this.#row, inside) };
  }

  /** Only the columns that the rule named, frozen: what one rule does to a row must not reach another. */
  #shown(row: Reads, inside: Reads = {}): Reads {
    const shown: { [name: string]: unknown } = {};
    for (const column of this.spec.columns) if (row[column] !== undefined) shown[column] = row[column];
    return Object.freeze({ ...shown, ...inside });
  }
}

const NEVER_ASKED = (): NoAnswer => ({ why: 'fault', cause: new Error('A look-up was never asked.') });
const NONE: Outcome = { value: undefined };
/** That something must exist cannot be asked with what is absent; no definition says so, and no rule passes by it. */
const unasked = ({ collection }: LookUpSpec): NoAnswer => ({
  why: 'fault',
  cause: new Error(`A look-up \`one\` in ${collection.name} has nothing to ask with.`),
});
const NOTHING: { readonly [want in Exclude<LookUpSpec['want'], 'sum' | 'one'>]: Outcome } = {
  oneOrNone: NONE,
  first: NONE,
  highest: NONE,
  lowest: NONE,
  all: { value: Object.freeze([]) },
  count: { value: 0 },
  exists: { value: false },
};

/** The look-ups of one case: of one that counts, or asks whether there is any, its answer is all. */
export interface Inquiries {
  readonly plans: readonly LookUpPlan[];
  readonly inquiries: readonly (Inquiry | Cell)[];
}

function inquiryOf(...[spec, read, questions, itself, isTrial, at]: ConstructorParameters<typeof Inquiry>): Inquiry | Cell {
  const isPlain = (spec.want === 'exists' || spec.want === 'count') && !spec.onlyItself;
  return (isPlain && questions.want(spec, read, itself, isTrial, at)) || new Inquiry(spec, read, questions, itself, isTrial, at);
}

/** Takes the answers of a round; asks what they lead to. */
function advanceAll({ inquiries }: Inquiries): void {
  for (const inquiry of inquiries) if (inquiry instanceof Inquiry) inquiry.advance();
}

const YES: Outcome = { value: true };
const NO: Outcome = { value: false };

function outcomeOf(inquiry: Inquiry | Cell, { want }: LookUpSpec): Outcome {
  if (inquiry instanceof Inquiry) return inquiry.outcome;
  const { answer } = inquiry;
  if (typeof answer === 'number') return want === 'exists' ? (answer > 0 ? YES : NO) : { value: answer };
  return (answer as NoAnswer | undefined) ?? NEVER_ASKED();
}

/** Everything found, by name; or the look-ups that found nothing, or why there is no answer. */
function foundBy({ plans, inquiries }: Inquiries): { readonly found: Found } | { readonly missing: readonly number[] } | NoAnswer {
  const found: { [name: string]: unknown } = {};
  let missing: number[] | undefined;
  let open: NoAnswer | undefined;
  for (let index = 0; index < plans.length; index++) {
    const { name, spec } = plans[index] as LookUpPlan;
    const outcome = outcomeOf(inquiries[index] as Inquiry | Cell, spec);
    if ('value' in outcome) found[name] = outcome.value;
    else if ('why' in outcome) open ??= outcome;
    else {
      missing ??= [];
      missing.push(index);
    }
  }
  return missing ? { missing } : (open ?? { found });
}

/** Asks the look-ups of judgements, all of them together. */
export class Asker {
  readonly #questions: Questions;

  constructor(questions: Questions) {
    this.#questions = questions;
  }

  inquire(plans: readonly LookUpPlan[], read: Reads, itself: Itself | undefined, isTrial: boolean, at: Circumstances): Inquiries {
    return { plans, inquiries: plans.map(({ spec }) => inquiryOf(spec, read, this.#questions, itself, isTrial, at)) };
  }

  advance(inquiries: Inquiries): void {
    advanceAll(inquiries);
  }

  found(inquiries: Inquiries): ReturnType<typeof foundBy> {
    return foundBy(inquiries);
  }

  /** Asks round after round, for all these judgements together. */
  async askRounds(all: readonly { advance(): void }[], records: Records, limit: TimeLimit): Promise<void> {
    while (!this.#questions.isEmpty) {
      await this.#questions.ask(records, limit);
      for (const rules of all) rules.advance();
    }
  }
}
