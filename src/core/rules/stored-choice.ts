import { all, exists } from '../asking/forms.ts';
import { fault } from '../basics/fault.ts';
import type { Fields } from '../declared/field.ts';
import type { BoundRule, Definition, Found } from '../declared/rule.ts';
import type { Columns } from '../stored/look-up.ts';
import type { Collection } from './collection.ts';
import { type ColumnPaths, ROW, roleFor, type StoredUse, storedRule } from './stored-rule.ts';

/** The look-up that the message lists. */
const OPTIONS = '(options)';
/** Options that a message lists; a sentence with more helps nobody. */
const MOST_LISTED = 20;

const bound = storedRule('stored-choice');

/**
 * The value is one of those that a table allows. Its finding lists them (`options`), as long as there are not more than
 * twenty; they are asked for only then, and stand in the order in which the store gives them.
 *
 * @param column the column of the allowed values, and the field compared with it
 * @param use `shows`: the column that the message lists, when people know the options by another name
 *
 * @law One of the values that a table allows. The finding lists them, up to twenty.
 * @option shows | the column that the message lists | the column compared
 * @option only | only rows count that have these values, of fields or fixed with `exactly(…)` | all rows
 * @example [{ plug: text('Plug') }, [storedChoice(collection('plugs', { code: text }, { key: 'code' }), { code: 'plug' })]]
 * @holds { plug: '16A' }
 * @fails { plug: '64A' }
 * @stored {"plugs":[{"code":"16A"},{"code":"32A"}]}
 */
export const storedChoice = <C extends Columns, K extends keyof C, F extends Fields>(
  stored: Collection<C, K>,
  column: ColumnPaths<C, F>,
  use: StoredUse<C, F> & { readonly shows?: keyof C } = {},
): BoundRule<F> => {
  const { shows, ...options } = use;
  return bound(stored, column, options, [String(shows ?? '')], ({ collection, terms, blames }) => {
    const [compared, ...others] = blames as [string, ...string[]];
    if (others.length > 0) fault(`stored-choice: it compares one column, and not ${blames.join(' and ')}; put the others into "only".`);
    const shown = (shows ?? compared) as string;
    roleFor(collection, shown);
    const isSecret = collection.secret.has(shown);
    if (isSecret && shows !== undefined)
      fault(`stored-choice: its message would list ${collection.name}.${shown}, and that column is secret; let it show another.`);
    const allowed = { collection, exceptItself: false, inner: {} } as const;
    const offered = terms.filter((term) => term.column !== compared);
    return {
      looksUp: { [ROW]: { ...allowed, terms, columns: [], form: exists } },
      ...(!isSecret && { tells: { [OPTIONS]: { ...allowed, terms: offered, columns: [shown], form: all, most: MOST_LISTED } } }),
      holds: (_read: object, found: Found) => found[ROW] === true,
      ...factsFrom(shown),
      message: {
        en: '{listed, select, true {{fields} must be {options}.} other {{fields} must be one of those that are offered.}}',
      },
    };
  });
};

function factsFrom(shown: string): Pick<Definition, 'facts' | 'factNames'> {
  return {
    facts: (_read: never, found: Found) => {
      const rows = (found[OPTIONS] ?? []) as readonly { readonly [column: string]: unknown }[];
      const listed = rows.length > 0 && rows.length <= MOST_LISTED;
      return listed ? { listed, options: rows.map((row) => row[shown]) } : { listed };
    },
    factNames: ['listed', 'options'],
  };
}
