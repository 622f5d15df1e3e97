import { fault } from '../fault.ts';
import type { Fields } from '../kinds/field.ts';
import type { Collection } from '../stored/collection.ts';
import type { Columns } from '../stored/look-up.ts';
import type { Comparison } from '../stored/records.ts';
import type { TermSpec } from '../stored/where.ts';
import { CLAIM_FACTS, CLAIMED, type Found } from './definition.ts';
import { type ColumnPaths, exactColumns, ROW, type StoredUse, storedRule } from './stored-rule.ts';
import type { BoundRule } from './use.ts';

const bound = storedRule('no-overlap');

/**
 * The interval of the submission shares nothing with that of any stored row which is alike in the other columns, nor with
 * that of an earlier entry or row. One that ends as the other begins is next to it, unless `touching` is `refused`.
 * A column of the interval that may hold nothing (`maybe`) is open then, in the store and in the submission: without an end, it
 * goes on until further notice. The record that is judged again (`itself`) does not count.
 *
 * @param columns column to field: those that have to be alike, and the two of the interval
 * @param use `interval`: the columns of its beginning and its end
 */
export const noOverlap = <C extends Columns, K extends keyof C, F extends Fields>(
  stored: Collection<C, K>,
  columns: ColumnPaths<C, F>,
  use: StoredUse<C, F> & { readonly interval: readonly [from: keyof C, to: keyof C]; readonly touching?: 'allowed' | 'refused' },
): BoundRule<F> => {
  const { interval, touching = 'allowed', ...options } = use;
  const [from, to] = interval as readonly [string, string];
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
        looksUp: { [ROW]: { collection, terms: asked, columns: [], want: 'exists', exceptItself: true, isFresh: true, inner: {} } },
        holds: (_read: object, found: Found) => found[ROW] === false && !(CLAIMED in found),
        ...CLAIM_FACTS,
        message: {
          en: `{takenBy, select,
          row {{fields} overlap with those of row {row}.}
          entry {{fields} overlap with those of entry {entry}.}
          other {{fields} overlap with what is there already.}}`,
        },
      };
    },
    [from, to],
  );
};
