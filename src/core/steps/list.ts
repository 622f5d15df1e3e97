import { rowNumbers } from '../basics/form-numbers.ts';
import { isBlank } from '../basics/text.ts';
import { type Entries, type EntryKey, type Frame, type ListStep, UNSOUND } from '../plan/plan.ts';
import { isObject } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { isSameIn } from '../run/value.ts';
import { isWithin, noEntries, readEntries, type Sent, valuesOf, withinEntries } from './entries.ts';
import type { Reading } from './sort.ts';

/** Entries in an order, known by where they stand. */
export const listStep: Reading<ListStep> = {
  name: 'list',
  isMade: true,
  isSentInParts: false,
  isOpen: false,
  calls: { lengthOf },
  none: [],
  read(run, step, raw, _frame, indexes) {
    const sent = sentIn(run, step, raw);
    return sent ? readEntries(run, step, sent, indexes) : noEntries(run, step, indexes);
  },
  value: ({ item }, held) => valuesOf(item, held as Entries),
  isSame({ slot, item }, frame, other) {
    const [held, was] = [frame[slot], other[slot]];
    if (held === was) return held !== UNSOUND;
    if (!Array.isArray(held) || !Array.isArray(was) || held.length !== was.length) return false;
    return held.every((entry: Frame, index) => isSameIn(item, entry, was[index] as Frame));
  },
  inside: ({ item }) => [{ steps: [item], isEntry: true }],
  within: withinEntries,
};

function sentIn(run: Run, { item, dropsBlankRows }: ListStep, raw: unknown): Sent | undefined {
  const { isForm } = run.settings;
  try {
    if (Array.isArray(raw)) {
      const length = Math.min(raw.length, Number.MAX_SAFE_INTEGER);
      if (!isForm) return { values: raw, length };
      const numbers = rowNumbers(raw);
      return dropsBlankRows ? withoutBlankRows(raw, numbers) : { values: raw, length, numbers };
    }
    // A form with one entry sends its key once.
    return isForm && !item.sort.isMade && (typeof raw === 'string' || item.kind.isObject) ? { values: [raw], length: 1 } : undefined;
  } catch {
    return undefined;
  }
}

/** How many entries a list has that is read as JSON; -1 where it cannot be read. */
function lengthOf(run: Run, step: ListStep, raw: unknown, indexes: readonly EntryKey[]): number {
  const length = lengthIn(raw);
  if (length >= 0) return isWithin(run, step, length, indexes) ? length : -1;
  noEntries(run, step, indexes);
  return -1;
}

function lengthIn(raw: unknown): number {
  try {
    return Array.isArray(raw) ? Math.min(raw.length, Number.MAX_SAFE_INTEGER) : -1;
  } catch {
    return -1;
  }
}

function withoutBlankRows(rows: readonly unknown[], numbers: readonly number[] | undefined): Sent {
  const kept = [...rows.keys()].filter((index) => !isBlankRow(rows[index]));
  const left = kept.map((index) => numbers?.[index] ?? index);
  return { values: kept.map((index) => rows[index]), length: kept.length, numbers: left };
}

/** Whether nobody has filled anything in. What a box says that is not ticked, it says by not being sent. */
function isBlankRow(raw: unknown): boolean {
  if (raw === undefined || raw === null || (typeof raw === 'string' && isBlank(raw))) return true;
  if (Array.isArray(raw)) return raw.every(isBlankRow);
  return isObject(raw) && !isFile(raw) && Object.values(raw).every(isBlankRow);
}

function isFile(raw: object): boolean {
  return 'size' in raw && typeof raw.size === 'number';
}
