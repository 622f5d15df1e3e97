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

export type Inputs = Options & { readonly given?: unknown; readonly itself?: Reads };
