/** The settings of one judgement, with every default filled in. */
export interface Settings {
  /** The moment that counts as now; the clock's, read once, where the caller names none. */
  readonly now: Date | undefined;
  readonly zone: string | undefined;
  readonly occasion: string;
  readonly isForm: boolean;
  readonly report: 'everything' | 'firstOfEach' | 'firstOfAll';
  readonly signal: AbortSignal | undefined;
  readonly explain: boolean;
  /** Undeclared keys are findings. */
  readonly refuseStrangers: boolean;
  /** Of a form: the paths of check boxes that it is known to have shown. */
  readonly shown: ReadonlySet<string> | undefined;
}
