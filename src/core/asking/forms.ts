import type { LookUpForm, LookUpSpec, NoAnswer, Outcome } from '../declared/look-up.ts';
import type { Question, StoredRow } from '../stored/records.ts';
import { readRow, readSum, shownOf } from './stored-values.ts';

// The forms of look-ups, each with what a store is asked for, what nothing found means, and how an answer is read.

type Rows = readonly StoredRow[];

export const one: LookUpForm = {
  name: 'one',
  want: 'rows',
  gives: 'row',
  mustExist: true,
  // A second row would tell that there are several.
  asks: () => ({ most: 2 }),
  nothing: unasked,
  read: (spec, rows: Rows) => rowOf(spec, rows) ?? { none: true },
};

export const oneOrNone: LookUpForm = {
  name: 'oneOrNone',
  want: 'rows',
  gives: 'row',
  isOfAll: true,
  asks: () => ({ most: 2 }),
  nothing: () => NOTHING,
  read: (spec, rows: Rows) => rowOf(spec, rows) ?? NOTHING,
};

export const first: LookUpForm = {
  name: 'first',
  want: 'rows',
  gives: 'row',
  isOfAll: true,
  asks: (spec) => ({ most: 1, order: orderOf(spec) }),
  nothing: () => NOTHING,
  read: (spec, [row]: Rows) => (row ? readRow(spec, row) : NOTHING),
};

export const all: LookUpForm = {
  name: 'all',
  want: 'rows',
  gives: 'rows',
  isOfAll: true,
  // One row more than wanted tells whether there are more; in an order the first are the answer, however many there are.
  asks: (spec) => ({ most: (spec.most as number) + (spec.order ? 0 : 1), ...(spec.order && { order: orderOf(spec) }) }),
  nothing: () => NO_ROWS,
  read: allRows,
};

export const count: LookUpForm = {
  name: 'count',
  want: 'count',
  gives: 'count',
  isOfAll: true,
  asks: () => ({}),
  nothing: () => ({ value: 0 }),
  read: (_spec, number: number) => ({ value: number }),
};

export const exists: LookUpForm = {
  name: 'exists',
  want: 'exists',
  gives: 'flag',
  isOfAll: true,
  asks: () => ({}),
  nothing: () => NO,
  read: (_spec, number: number) => (number > 0 ? YES : NO),
};

export const sum: LookUpForm = {
  name: 'sum',
  want: 'sum',
  gives: 'value',
  isOfAll: true,
  asks: () => ({}),
  nothing: (spec) => readSum(spec, null),
  read: readSum,
};

/** The value at one end of a column. */
export const highest: LookUpForm = {
  name: 'highest',
  want: 'rows',
  gives: 'value',
  isOfAll: true,
  asks: ({ order }) => ({ most: 1, order: [order as NonNullable<typeof order>] }),
  nothing: () => NOTHING,
  read(spec, [row]: Rows) {
    const read = row ? readRow(spec, row) : NOTHING;
    return 'row' in read ? { value: read.row[spec.columns[0] as string] } : read;
  },
};
export const lowest: LookUpForm = { ...highest, name: 'lowest' };

/** Every form: a collection has a method for each. */
export type FormName = keyof typeof FORMS;
const FORMS = { one, oneOrNone, first, all, count, exists, sum, highest, lowest };

const NOTHING: Outcome = { value: undefined };
const NO_ROWS: Outcome = { value: Object.freeze([]) };
const YES: Outcome = { value: true };
const NO: Outcome = { value: false };

/** That something must exist cannot be asked with what is absent; no definition says so, and no rule passes by it. */
function unasked({ collection }: LookUpSpec): NoAnswer {
  return { why: 'fault', cause: new Error(`A look-up \`one\` in ${collection.name} has nothing to ask with.`) };
}

/** The only row; nothing where there is none. */
function rowOf(spec: LookUpSpec, [row, ...others]: Rows): ReturnType<typeof readRow> | undefined {
  if (others.length > 0)
    return { why: 'stored-unsound', cause: new Error(`${spec.collection.name} has several rows where a rule expects one.`) };
  return row && readRow(spec, row);
}

function allRows(spec: LookUpSpec, rows: Rows): Outcome {
  const { most = 0, collection, order } = spec;
  if (rows.length > most && !order)
    return {
      why: 'too-many-rows',
      cause: new Error(
        `More than ${most} rows of ${collection.name} match, and a rule would see some of them only; give its look-up \`all\` a larger \`most\`.`,
      ),
    };
  const shown: object[] = [];
  for (const stored of rows) {
    const read = readRow(spec, stored);
    if ('why' in read) return read;
    shown.push(shownOf(spec, read.row));
  }
  return { value: Object.freeze(shown) };
}

/** Of rows that are alike in the order, the key tells which one comes first. */
function orderOf({ order, collection }: LookUpSpec): NonNullable<Question['order']> {
  return [order as NonNullable<typeof order>, ...collection.key.map((column) => ({ column, from: 'lowest' }) as const)];
}
