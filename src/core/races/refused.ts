/** Thrown by what stores an accepted value: a rule refuses it after all. */
export class Refused extends Error {
  override readonly name = 'Refused';
  /** The use of the rule, or the rule. */
  readonly use: string;

  constructor(use: string) {
    super(`Storing was refused by ${use}.`);
    this.use = use;
  }
}

/**
 * For what stores inside `judgeAndStore` and `amendAndStore`: an update touched no row, because the record was changed or taken away in
 * the meantime. `throw refused('unchanged-since')` makes it the finding of that rule, and nothing of what was stored stays.
 *
 * @param use the name of a use of the intake (`as`), or the id of its rule
 */
export function refused(use: string): Refused {
  return new Refused(use);
}
