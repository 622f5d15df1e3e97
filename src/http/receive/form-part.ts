import { formObject } from '../../forms/form.ts';
import type { Limits } from './json.ts';
import { Unreadable } from './problem.ts';
/** A part of a request, as it is judged. */
export interface ReadPart {
  readonly submission: unknown;
  readonly as: 'json' | 'form';
  /** The texts of a form as they were typed, for showing them again. */
  readonly typed?: Iterable<readonly [string, unknown]>;
  /** The files of a multipart body, by field. */
  readonly files?: Iterable<readonly [string, unknown]>;
}

/** Decodes pairs of names and values. */
export function formPart(pairs: readonly (readonly [string, unknown])[], limits: Required<Limits>): ReadPart {
  if (pairs.length > limits.keys) throw new Unreadable(413, `The form has more than ${limits.keys} fields.`);
  const texts = pairs.filter(([, value]) => typeof value === 'string');
  const files = pairs.filter(([, value]) => typeof value !== 'string');
  return { submission: formObject(pairs), as: 'form', typed: texts, ...(files.length > 0 && { files }) };
}
