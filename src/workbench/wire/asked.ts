// What the page of the workbench knows of its module, and asks by.

/** What the server knows of the module that it serves. */
export interface ModuleState {
  readonly path: string;
  /** Counted up at every load, so that the page sees that there is a new one. */
  readonly loads: number;
  /** The newest load goes on; what is said of intakes is not yet of it. */
  readonly isLoading: boolean;
  /** Why the module does not load; the page keeps what it has of the load before. */
  readonly problem?: string;
  readonly intakes: readonly string[];
  /** The file in which cases are kept. */
  readonly casesFile: string;
  /** Another text each time that the file is another. */
  readonly casesSeen: string;
  readonly defaults: Settings;
  /** Whether the module exports `records` of its own. */
  readonly hasRecords: boolean;
}

/** How a submission is judged. */
export interface Settings {
  readonly locale: string;
  /** How values are read. */
  readonly as: 'json' | 'form';
  readonly report: 'everything' | 'firstOfEach' | 'firstOfAll';
  /** None: the intake's first. */
  readonly occasion?: string;
  /** RFC 3339; none: the clock. */
  readonly now?: string;
  /** The given fields, as a JSON text. */
  readonly given?: string;
  /** Nothing for none, `module` for what the module exports, else a JSON file, a module or the address of a database. */
  readonly records: string;
}

/** A submission, or a change to a stored record, and how it is judged. */
export interface Asked {
  readonly intake: string;
  /** As JSON, as it was typed. */
  readonly submission: string;
  /** The stored record that it changes, as JSON; none for a new submission. */
  readonly stored?: string;
  /** The key of that record, as JSON. */
  readonly itself?: string;
  readonly settings: Settings;
}

/** What can be asked: a result, or a sentence about what stands in the way. */
export type Told<T> = T | { readonly problem: string };
