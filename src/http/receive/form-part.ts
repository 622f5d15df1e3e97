import { formObject } from '../../forms/form.ts';
import { type Limits, refuseName } from './json.ts';
import { Unreadable } from './problem.ts';
/** A part of a request, as it is judged. */
export interface ReadPart {
  readonly submission: unknown;
  readonly as: 'json' | 'form';
  /** What was sent under the names of a form, files among them. */
  readonly pairs?: readonly (readonly [name: string, value: unknown])[];
  /** Bytes of the body that were read. */
  size?: number;
}

/** Decodes pairs of names and values. */
export function formPart(pairs: readonly (readonly [string, unknown])[], limits: Required<Limits>): ReadPart {
  if (pairs.length > limits.keys) throw new Unreadable(413, `The form has more than ${limits.keys} fields.`);
  for (const [name] of pairs) refuseName(name.length, limits);
  return { submission: formObject(pairs), as: 'form', pairs };
}
