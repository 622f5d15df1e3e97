import { oneOrNone } from '../asking/forms.ts';
import { readRow } from '../asking/stored-values.ts';
import { TimeLimit } from '../asking/time-limit.ts';
import type { CollectionSpec, LookUpSpec, NoAnswer } from '../declared/look-up.ts';
import type { Reads } from '../declared/rule.ts';
import { RECORDS_WITHIN } from '../judging/decide.ts';
import type { Inputs } from '../judging/options.ts';
import type { Plan } from '../plan/plan.ts';
import { isObject } from '../run/raw.ts';
import type { Answer, Question, Scope, StoredRow } from '../stored/records.ts';

/** The record as it is by now, or why nobody can tell. */
type ReadAgain = { readonly stored: unknown } | NoAnswer;

/**
 * The stored record that is changed, as it is by now, where the store can tell: others may have stored since the change was made from it.
 * Fields are read again that have a column of their name and kind in the collection stored into, and in a transaction the row stays locked.
 * A record that is gone is taken as it was given: whoever updates it says `refused`.
 */
export async function readAgain(
  { fields, storedIn }: Plan,
  stored: unknown,
  { records, itself, within = RECORDS_WITHIN, signal }: Inputs,
): Promise<ReadAgain> {
  if (!storedIn || !itself || records?.isSerial === undefined || !isObject(stored)) return { stored };
  const columns = fields.steps.flatMap(({ key, kind, isLeftOut }) =>
    !isLeftOut && storedIn.columns[key]?.spec.name === kind.name ? [key] : [],
  );
  const question = questionFor(storedIn, columns, itself, records.scope ?? {});
  if (columns.length === 0 || !question) return { stored };
  const limit = new TimeLimit(within, signal);
  try {
    const [answer] = await limit.race(records.ask([question], limit.signal));
    if (answer instanceof Error) throw answer;
    const [row] = (answer as Answer)[0] as readonly StoredRow[];
    if (!row) return { stored };
    const read = readRow(lookUpOf(storedIn, columns), row);
    if ('why' in read) return read;
    return { stored: { ...stored, ...Object.fromEntries(columns.map((column) => [column, read.row[column] ?? null])) } };
  } catch (cause) {
    return { why: limit.why ?? 'unavailable', cause };
  } finally {
    limit.end();
  }
}

const lookUpOf = (collection: CollectionSpec, columns: readonly string[]): LookUpSpec => ({
  collection,
  terms: [],
  columns,
  form: oneOrNone,
  exceptItself: false,
  inner: {},
});

/** `undefined` where it is not said which record it is, or whose: the rules that need it say so. */
function questionFor(
  { name, key, scope, columns }: CollectionSpec,
  wanted: readonly string[],
  itself: Reads,
  whose: Scope,
): Question | undefined {
  const named = [...new Set([...key, ...scope])];
  const values = named.map((column) => (key.includes(column) ? itself[column] : whose[column]));
  if (values.some((value) => value === undefined || value === null)) return undefined;
  return {
    collection: name,
    terms: named.map((column) => ({ column, is: 'equal' })),
    columns: wanted,
    want: 'rows',
    keys: [values as Question['keys'][number]],
    isFresh: true,
    isLocked: true,
    storedAs: Object.fromEntries([...named, ...wanted].map((column) => [column, columns[column]?.spec.storedAs ?? 'any'])),
  };
}
