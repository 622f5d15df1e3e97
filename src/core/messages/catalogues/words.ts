/** What a description says besides the intake's own labels and messages. */
export interface Words {
  /** The language, a BCP 47 tag. */
  readonly language: string;
  readonly fields: string;
  readonly field: string;
  readonly kind: string;
  readonly presence: string;
  readonly rules: string;
  readonly rule: string;
  readonly given: string;
  readonly betweenFields: string;
  readonly stored: string;
  readonly outside: string;
  readonly example: string;
  readonly accepted: string;
  readonly refused: string;
  readonly noExample: string;
  readonly collections: string;
  readonly collection: string;
  readonly key: string;
  readonly columns: string;
  readonly needs: string;
  readonly uniqueOver: string;
  readonly graph: string;
  readonly needed: string;
  readonly optional: string;
  readonly otherwise: string;
  readonly computed: string;
  readonly emptyList: string;
  readonly secret: string;
  readonly leftOut: string;
  readonly nullAllowed: string;
  readonly options: string;
  readonly cleaned: string;
  readonly warning: string;
  readonly trial: string;
  readonly on: string;
  readonly when: string;
  readonly not: string;
  readonly and: string;
  readonly or: string;
  readonly is: string;
  readonly isThere: string;
  readonly from: string;
  readonly until: string;
  readonly strangersRefused: string;
  readonly zone: string;
  readonly occasions: string;
  readonly storedIn: string;
  readonly withStored: string;
  readonly nothing: string;
  readonly several: string;
  readonly withheld: string;
  readonly noRow: string;
  readonly oneRow: string;
  /** Instead of a long text: how long it is. */
  characters(count: number): string;
  /** A bound that is worked out from the clock. */
  relative(bound: { readonly relative: string; readonly by: number }): string;
  /** What kinds are called, by their names; in English each says it of itself. */
  readonly kinds: { readonly [kind: string]: string };
}
