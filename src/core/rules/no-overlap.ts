import { exists } from '../asking/forms.ts';
import { fault } from '../basics/fault.ts';
import { kindOf } from '../basics/known.ts';
import type { Fields } from '../declared/field.ts';
import type { Comparison, TermSpec } from '../declared/look-up.ts';
import type { BoundRule } from '../declared/rule.ts';
import { CLAIMED, type Found } from '../declared/rule.ts';
import type { Columns } from '../stored/look-up.ts';
import type { Collection } from './collection.ts';
import { CLAIM_FACTS } from './definition.ts';
import { type ColumnPaths, exactColumns, ROW, type StoredUse, storedRule } from './stored-rule.ts';

const bound = storedRule('no-overlap');

/**
 * The interval of the submission shares nothing with that of any stored row which is alike in the other columns, nor with
 * that of an earlier entry or row. One that ends as the other begins is next to it, unless `touching` is `refused`.
 * A column of the interval that may hold nothing (`maybe`) is open then, in the store and in the submission: without an end, it
 * goes on until further notice. The record that is judged again (`itself`) does not count.
 *
 * @param columns column to field: those that have to be alike, and the two of the interval
 * @param use `interval`: the columns of its beginning and its end
 *
 * @law The interval shares nothing with that of a stored row which is alike in the other columns, but for the record that is judged again (`itself`); nor with that of an earlier entry or row.
 * @option interval | the columns of its beginning and its end | needed
 * @option touching | `refused`: one must not end as the other begins | `allowed`
 * @option only | only rows count that have these values, of fields or fixed with `exactly(…)` | all rows
 * @option constraint | the name of the database’s constraint that enforces the same | known by its columns
 * @example [{ berth: text('Berth'), from: day('Arrival'), to: day('Departure') }, [noOverlap(collection('bookings', { id: whole, berth: text, arrives: day, departs: day }, { key: 'id' }), { berth: 'berth', arrives: 'from', departs: 'to' }, { interval: ['arrives', 'departs'] })]]
 * @holds { berth: 'A1', from: '2031-05-14', to: '2031-05-15' }
 * @fails { berth: 'A1', from: '2031-05-13', to: '2031-05-15' }
 * @stored {"bookings":[{"id":1,"berth":"A1","arrives":"2031-05-10","departs":"2031-05-14"}]}
 */
export const noOverlap = <C extends Columns, K extends keyof C, F extends Fields>(
  stored: Collection<C, K>,
  columns: ColumnPaths<C, F>,
  use: StoredUse<C, F> & { readonly interval: readonly [from: keyof C, to: keyof C]; readonly touching?: 'allowed' | 'refused' },
): BoundRule<F> => {
  const { interval, touching = 'allowed', ...options } = use;
  const [from, to] = interval as readonly [string, string];
  if (!Array.isArray(interval) || interval.length !== 2)
    fault('no-overlap: interval names two columns, that of the beginning and that of the end.');
  if (touching !== 'allowed' && touching !== 'refused') fault(`no-overlap: touching is allowed or refused, and not ${kindOf(touching)}.`);
  const isTouching = touching === 'refused';
  return bound(
    stored,
    columns,
    options,
    [from, to, touching],
    ({ collection, terms, blames }) => {
      for (const column of [from, to]) {
        if (!blames.includes(column)) fault(`no-overlap: "${column}" of the interval is not joined to a field.`);
      }
      const mayBeOpen = (column: string) => collection.columns[column]?.maybe === true;
      const against = (term: TermSpec, is: Comparison, role: string): TermSpec => ({
        ...term,
        is,
        role,
        ...(mayBeOpen(term.column) && { orMissing: true }),
        ...(mayBeOpen(role) && { isOpen: true }),
      });
      const asked = terms.map((term): TermSpec => {
        // A stored interval overlaps when it begins before this one ends, and ends after it begins.
        if (term.column === from) return against(term, isTouching ? 'notAbove' : 'below', to);
        return term.column === to ? against(term, isTouching ? 'notBelow' : 'above', from) : term;
      });
      const alike = terms.filter(({ column }) => column !== from && column !== to);
      return {
        mirrors: 'overlap',
        claims: {
          terms: alike,
          exact: exactColumns(collection),
          interval: { from, to, touching: isTouching, isNumber: exactColumns(collection).includes(from) },
        },
        looksUp: { [ROW]: { collection, terms: asked, columns: [], form: exists, exceptItself: true, isFresh: true, inner: {} } },
        holds: (_read: object, found: Found) => found[ROW] === false && !(CLAIMED in found),
        ...CLAIM_FACTS,
        message: {
          en: `{takenBy, select,
          row {{fields} overlap with those of row {row}.}
          refusedRow {{fields} also overlap with those of row {row}, which was not accepted.}
          entry {{fields} overlap with those of entry {entry}.}
          other {{fields} overlap with what is there already.}}`,
        },
      };
    },
    [from, to],
  );
};
