import type { ShownFinding } from './finding.ts';
import type { Entry } from './values.ts';

// What a filling has to do with: the controls of a form, and who shows it.

/** The controls of a form that is filled in. */
export interface Controls {
  /** What they send now; text that the browser cannot read is `UNREADABLE_TEXT`. */
  entries(): readonly Entry[];
  /** The pointers of their fields. */
  pointers(): ReadonlySet<string>;
  /** The paths of the flags whose check boxes are shown. */
  boxes(): string[];
  /** What controls that are disabled while a form is on its way have sent with it. */
  hold(sent: FormData | undefined): void;
}

/** No kind reads it: stands for what was typed into a control that gives no value for it, such as half a date. */
export const UNREADABLE_TEXT = '\u0000';

/** What a page shows of a form that is filled in. */
export interface Filled {
  /** What stood in it when it was last looked at. */
  readonly entries: readonly Entry[];
  /** Beside the fields: what is wrong with those that were seen. */
  readonly findings: readonly ShownFinding[];
  /** In the summary: all errors beside the fields, once the form was sent. */
  readonly summary: readonly ShownFinding[];
  /** What became of the whole form, where that is no list of findings. */
  readonly trouble: string | undefined;
  /** It is on its way. */
  readonly isPending: boolean;
}

/** Where a form is shown. */
export interface Page {
  /** The language in which findings are told. */
  locale(): string;
  show(filled: Filled): void;
  /** Moves to the trouble, or to the first of the errors; with `isAgain` only where nobody is elsewhere. */
  move(filled: Filled, isAgain?: boolean): void;
  /** Tells people what came while they were elsewhere. */
  tell(text: string): void;
}

export const NOTHING: Filled = { entries: [], findings: [], summary: [], trouble: undefined, isPending: false };
