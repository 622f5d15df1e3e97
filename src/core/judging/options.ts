import { fault, nearest } from '../basics/fault.ts';
import { kindOf } from '../basics/known.ts';
import type { Reads } from '../declared/rule.ts';
import type { Records } from '../stored/records.ts';

/** How one submission is judged. Everything has a default. */
export interface Options {
  /** The store of existing data. Without it record rules are unsettled (`not-asked`). */
  readonly records?: Records;
  /** The moment that counts as now. Defaults to the clock, read once. */
  readonly now?: Date;
  /** The time zone in which `today` is. Defaults to the intake's. */
  readonly zone?: string;
  /** The language of messages (BCP 47). Defaults to `en`. */
  readonly locale?: string;
  /** One of the intake's occasions. Defaults to the first of them. */
  readonly occasion?: string;
  /** How values are read: strictly as JSON, or as the text that forms carry. Defaults to `json`. */
  readonly as?: 'json' | 'form';
  /**
   * Defaults to what the intake says. `everything`; `firstOfEach`: one finding a place; `firstOfAll`: the first finding only, and no question
   * to the store once something failed.
   */
  readonly report?: 'everything' | 'firstOfEach' | 'firstOfAll';
  /** Aborts look-ups and outside checks; their rules are then unsettled. */
  readonly signal?: AbortSignal;
  /** Milliseconds that the records may take in all. Defaults to 10,000. */
  readonly within?: number;
  /**
   * Of a form: the paths of the check boxes that it showed. An unticked box is not sent, so that only who made the form can
   * tell a box left unticked (`false`) from one that was not there (absent, or its default). A needed flag is `false` anyway.
   */
  readonly shown?: readonly string[];
  /** Adds the trace of every rule to the verdict. */
  readonly explain?: boolean;
}

/** What every call knows. */
const COMMON: readonly (keyof Inputs)[] = [
  'records',
  'now',
  'zone',
  'locale',
  'occasion',
  'as',
  'report',
  'signal',
  'within',
  'shown',
  'explain',
  'given',
  'itself',
];
export const JUDGE: ReadonlySet<string> = new Set(COMMON);
/** What is known besides of a submission that a store has refused. */
export const REFUSED: ReadonlySet<string> = new Set([...COMMON, 'whole', 'complete', 'value']);
export const AMEND: ReadonlySet<string> = new Set([...COMMON, 'whole', 'complete']);
export const MANY: ReadonlySet<string> = new Set([...COMMON, 'chunk', 'rowsBefore', 'claims', 'numberOf', 'apart']);

const REPORTS: readonly unknown[] = [undefined, 'everything', 'firstOfEach', 'firstOfAll'];

/** Refuses options that a call does not know, and values that they cannot have: they are the application's own. */
export function checkOptions(intake: string, options: Options, known: ReadonlySet<string>): void {
  const say = (sentence: string) => fault(`Intake "${intake}": ${sentence}`);
  if (typeof options !== 'object' || options === null) say(`how it judges is an object such as { records }, and not ${kindOf(options)}.`);
  for (const name in options) if (!known.has(name)) say(`judging knows no option "${name}"; ${nearest(name, [...known])}`);
  const { as, report, now, within, records } = options;
  if (as !== undefined && as !== 'json' && as !== 'form') say(`as is json or form, and not ${kindOf(as)}.`);
  if (!REPORTS.includes(report)) say(`report is everything, firstOfEach or firstOfAll, and not ${kindOf(report)}.`);
  if (now !== undefined && !(now instanceof Date && !Number.isNaN(now.getTime()))) say('now is a Date that exists.');
  if (within !== undefined && !(within >= 0)) say(`within is a number of milliseconds, and not ${kindOf(within)}.`);
  if (records !== undefined && typeof records?.ask !== 'function') say(`records answer questions (ask), and ${kindOf(records)} does not.`);
}

export type Inputs = Options & { readonly given?: unknown; readonly itself?: Reads };
