import type { Circumstances } from '../basics/verdict.ts';
import type { LookUpSpec, NoAnswer, Outcome } from '../declared/look-up.ts';
import type { Found, Reads } from '../declared/rule.ts';
import type { LookUpPlan } from '../plan/plan.ts';
import type { Records } from '../stored/records.ts';
import { type Cell, type Itself, isOf, type Questions } from './questions.ts';
import { shownOf } from './stored-values.ts';
import type { TimeLimit } from './time-limit.ts';

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
    if (!this.#cell) this.#outcome = spec.form.nothing(spec);
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
    const read = readBy(this.spec, answer);
    if (!('row' in read)) {
      this.#outcome = read;
      return;
    }
    this.#row = read.row;
    const known = { ...this.read, ...this.#row };
    this.#inner = Object.entries(this.spec.inner).map(([name, spec]) => ({
      name,
      inquiry: new Inquiry(spec, known, this.questions, this.itself, this.isTrial, this.at),
    }));
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
    return { value: shownOf(this.spec, this.#row, inside) };
  }
}

const NEVER_ASKED = (): NoAnswer => ({ why: 'fault', cause: new Error('A look-up was never asked.') });
/** What the answer to a look-up comes to. */
function readBy(spec: LookUpSpec, answer: NonNullable<Cell['answer']> | null) {
  return typeof answer === 'object' && answer !== null && 'why' in answer ? answer : spec.form.read(spec, answer as never);
}

/** The look-ups of one case: of one that counts, or asks whether there is any, its answer is all. */
export interface Inquiries {
  readonly plans: readonly LookUpPlan[];
  readonly inquiries: readonly (Inquiry | Cell)[];
}

function inquiryOf(...[spec, read, questions, itself, isTrial, at]: ConstructorParameters<typeof Inquiry>): Inquiry | Cell {
  const isPlain = (spec.form.gives === 'flag' || spec.form.gives === 'count') && !spec.onlyItself;
  return (isPlain && questions.want(spec, read, itself, isTrial, at)) || new Inquiry(spec, read, questions, itself, isTrial, at);
}

/** Takes the answers of a round; asks what they lead to. */
function advanceAll({ inquiries }: Inquiries): void {
  for (const inquiry of inquiries) if (inquiry instanceof Inquiry) inquiry.advance();
}

function outcomeOf(inquiry: Inquiry | Cell, spec: LookUpSpec): Outcome {
  if (inquiry instanceof Inquiry) return inquiry.outcome;
  const { answer } = inquiry;
  return answer === undefined ? NEVER_ASKED() : (readBy(spec, answer) as Outcome);
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
