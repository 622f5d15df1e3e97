import type { Settings } from './asked.ts';

// Submissions as requests: what a client gets, what is copied out and pasted.

export interface HttpAnswer {
  readonly locale: string;
  readonly status: number;
  readonly headers: readonly (readonly [name: string, value: string])[];
  readonly body: string;
  /** The same request for a shell, and as an entry of an HTTP archive; where no other address is named, the workbench itself answers it. */
  readonly curl: string;
  readonly har: string;
}

/** A submission out of a request that was pasted. */
export interface Pasted {
  readonly method: string;
  /** Without its query. */
  readonly url: string;
  /** As JSON. */
  readonly submission: string;
  readonly as: Settings['as'];
  /** The names of fields with files, which were left out. */
  readonly files: readonly string[];
  /** It is JSON, and goes out as if it were a form: whoever sends it ought to say its type. */
  readonly isCalledForm?: true;
}

/** A request to the door that stands before the intake that was judged last. */
export interface DoorAsked {
  readonly intake: string;
  readonly method: string;
  readonly headers: { readonly [name: string]: string };
  readonly body: string;
}

export interface DoorTold {
  readonly status: number;
  readonly headers: readonly (readonly [name: string, value: string])[];
  readonly body: string;
}
