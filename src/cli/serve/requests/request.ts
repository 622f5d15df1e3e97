/** A request as far as a submission is made of it. */
export interface SeenRequest {
  readonly method: string;
  readonly url: string;
  /** Of the body, without parameters but for the boundary of a form with parts. */
  readonly type: string | undefined;
  readonly body: string | undefined;
  /** Of a form with parts: the names and texts of its fields. */
  readonly parts?: readonly (readonly [name: string, text: string])[];
  /** Names of fields with files, which are left out. */
  readonly files?: readonly string[];
}
