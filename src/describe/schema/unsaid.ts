/** Something that an intake demands and a schema cannot say. */
export interface Unsaid {
  /** The declared path; '' for the submission as a whole. */
  readonly place: string;
  readonly rule: string;
  readonly use: string;
  readonly why: string;
}
