import { oneOrNone } from '../asking/forms.ts';
import { isSameValue } from '../basics/exact.ts';
import { fault } from '../basics/fault.ts';
import type { Fields } from '../declared/field.ts';
import type { LookUpForm } from '../declared/look-up.ts';
import type { BoundRule, Found } from '../declared/rule.ts';
import type { Columns } from '../stored/look-up.ts';
import type { StoredRow } from '../stored/records.ts';
import type { Collection } from './collection.ts';
import { occasionIs, when } from './condition.ts';
import { absent, needed } from './presence.ts';
import { type ColumnPaths, exactColumns, ROW, storedRule } from './stored-rule.ts';
import type { Use } from './use.ts';

const bound = storedRule('unchanged-since');

/**
 * The stored record that is changed is still the one that the change was made from: its version (a counter, or the moment of the last
 * change) is what the field says. The field is needed when a stored record is changed, and has to be left out of something new;
 * declare it `.orAbsent().leftOut()`. A record that is gone has changed, too.
 *
 * What another stores between this answer and the update is settled by `serially`, or by the update itself (`where version = …`).
 *
 * @param column the column of the version, and the field that carries it
 * @param use `on`: the occasions of changing, where they are others than `amend`
 *
 * @law The stored record that is changed (`itself`) still has the version that the field says. The field is needed on `amend`, and has to be left out of something new.
 * @option on | the occasions of changing | `amend`
 * @example [{ version: whole('Version').orAbsent().leftOut() }, [unchangedSince(collection('owners', { id: whole, version: whole }, { key: 'id' }), { version: 'version' })]]
 * @holds { version: 3 }
 * @fails { version: 2 }
 * @stored {"owners":[{"id":1,"email":"ida@fjordmail.example","version":3}]}
 * @changes {"stored":{},"itself":{"id":1}}
 */
export const unchangedSince = <C extends Columns, K extends keyof C, F extends Fields>(
  stored: Collection<C, K>,
  column: ColumnPaths<C, F>,
  use: Omit<Use<F>, 'when'> = {},
): BoundRule<F> => {
  const { on = 'amend', ...options } = use;
  const [[version = '', field] = [], ...others] = Object.entries(column) as [string, string][];
  if (field === undefined || others.length > 0)
    fault('unchanged-since: name one column, that of the version, and the field that carries it.');
  const same = bound(stored, column, options, [], ({ collection }) => {
    const isExact = exactColumns(collection).includes(version);
    return {
      looksUp: {
        [ROW]: {
          collection,
          terms: [],
          columns: [version],
          form: finely(version),
          exceptItself: false,
          onlyItself: true,
          isFresh: true,
          inner: {},
        },
      },
      holds: (read: { readonly [role: string]: unknown }, found: Found) => {
        const row = found[ROW] as { readonly [column: string]: unknown } | undefined;
        return row !== undefined && isSameValue(row[version], read[version], isExact);
      },
      message: { en: 'Somebody else has changed this in the meantime; please look at it again.' },
    };
  });
  return when(occasionIs(...[on].flat()), [needed(field as never), same], [absent(field as never)]);
};

/** Moments know three digits of a second. A column that keeps more tells changes apart that they cannot, and none may be overlooked. */
function finely(version: string): LookUpForm {
  return {
    ...oneOrNone,
    read(spec, rows: readonly StoredRow[]) {
      const raw = rows[0]?.[version];
      if (spec.collection.columns[version]?.spec.storedAs !== 'timestamp' || typeof raw !== 'string' || !FINER.test(raw))
        return oneOrNone.read(spec, rows as never);
      const cause = new Error(
        `${spec.collection.name}.${version} keeps more digits of a second than the three of a moment, so a change could look like none; give it three, or count versions.`,
      );
      return { why: 'stored-unsound', cause };
    },
  };
}
const FINER = /\.\d{3}\d{0,9}[1-9]/;
