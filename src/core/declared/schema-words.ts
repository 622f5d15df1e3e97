/** A schema of JSON Schema 2020-12, as far as rules write it. */
export type JsonSchema = { readonly [keyword: string]: unknown };

/** What JSON Schema says of a rule or kind. */
export interface SchemaWords {
  readonly schema: JsonSchema;
  /** It refuses less than the rule: what it leaves out, in words. */
  readonly leavesOut?: string;
}
