import type { LookUpSpec } from '../core/declared/look-up.ts';
import { ENTRY, type PlaceSpec } from '../core/plan/plan.ts';
import type { Answer, Question, Records, StoredRow } from '../core/stored/records.ts';

/** A submission with all that it is judged with: what is given, and what the store would answer. */
export interface Situation {
  readonly submission: { [key: string]: unknown };
  readonly given: { [key: string]: unknown };
  readonly store: MadeStore;
}

/** What a made store answers: of each collection one row, or none; of each question that counts a number. */
export interface MadeStore {
  readonly rows: { readonly [collection: string]: StoredRow | undefined };
  readonly numbers: { readonly [question: string]: number };
}

/** A question that counts, by its name. */
export function questionName({ collection, want, terms }: Pick<Question, 'want' | 'terms'> & { readonly collection: string }): string {
  return `${want} ${collection} ${terms.map(({ column, is }) => `${column} ${is}`).join()}`;
}

/** The same of a look-up. */
export function lookUpName({ collection, form: { want }, terms }: LookUpSpec): string {
  return questionName({ collection: collection.name, want, terms: terms as Question['terms'] });
}

/** Records that answer as the store says, and tell of whom they were asked. */
export function recordsOf({ rows, numbers }: MadeStore, asked?: Set<string>): Records {
  return {
    ask: async (questions) =>
      questions.map((question): Answer => {
        const { keys, want, collection, terms } = question;
        if (want !== 'rows') {
          asked?.add(questionName(question));
          const number = numbers[questionName(question)] ?? 0;
          return keys.map(() => (want === 'exists' ? Math.min(1, number) : number));
        }
        asked?.add(collection);
        const row = rows[collection];
        return keys.map((key) => {
          if (!row) return [];
          const made: { [column: string]: unknown } = { ...row };
          for (const [at, { column, is, than }] of terms.entries())
            if ((is === 'equal' || is === 'ignoringCase') && than === undefined) made[column] = key[at];
          return [made];
        });
      }),
  };
}

/** A copy that can be changed without changing the first. */
export function copyOf({ submission, given, store }: Situation): Situation {
  return { submission: copied(submission), given: copied(given), store };
}

function copied<T>(value: T): T {
  if (Array.isArray(value)) return value.map(copied) as T;
  // Files and the like stay what they are.
  if (
    typeof value !== 'object' ||
    value === null ||
    Object.getPrototypeOf(value) !== Object.prototype ||
    Object.getOwnPropertySymbols(value).length > 0
  )
    return value;
  return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, copied(inner)])) as T;
}

/** What stands at a place; of a list in its first entry. */
export function valueAt(root: unknown, { segments }: PlaceSpec): unknown {
  return segments.reduce<unknown>((value, segment) => {
    if (typeof value !== 'object' || value === null) return undefined;
    return segment === ENTRY ? Object.values(value)[0] : (value as { readonly [key: string]: unknown })[segment];
  }, root);
}

/** Puts a value at a place, or takes what is there away (`undefined`); of a list in its first entry. What holds the place has to be there. */
export function putAt(root: { [key: string]: unknown }, { segments }: PlaceSpec, value: unknown): boolean {
  let holder: unknown = root;
  for (const segment of segments.slice(0, -1)) {
    if (typeof holder !== 'object' || holder === null) return false;
    holder = segment === ENTRY ? Object.values(holder)[0] : (holder as { readonly [key: string]: unknown })[segment];
  }
  if (typeof holder !== 'object' || holder === null) return false;
  const last = segments.at(-1);
  const key = last === ENTRY ? Object.keys(holder)[0] : (last as string);
  if (key === undefined) return false;
  if (value !== undefined) (holder as { [key: string]: unknown })[key] = value;
  else if (Array.isArray(holder)) holder.splice(Number(key), 1);
  else delete (holder as { [key: string]: unknown })[key];
  return true;
}
