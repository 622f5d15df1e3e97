import { namedByNumbers } from '../basics/form-numbers.ts';
import { isStorable } from '../basics/text.ts';
import { type Entries, type EntryKey, type Frame, type ListStep, UNSOUND } from '../plan/plan.ts';
import { byName } from '../run/entries.ts';
import { isObject } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { isSameIn } from '../run/value.ts';
import { isWithin, noEntries, readEntries, type Sent, valuesOf, withinEntries } from './entries.ts';
import type { Reading } from './sort.ts';

/** Entries under any names, known by these. */
export const tableStep: Reading<ListStep> = {
  name: 'table',
  isMade: true,
  isSentInParts: false,
  isOpen: false,
  calls: { namesOf },
  none: {},
  read(run, step, raw, _frame, indexes) {
    const sent = sentIn(run, raw);
    return sent?.names.every(isStorable) ? readEntries(run, step, sent, indexes) : noEntries(run, step, indexes);
  },
  value({ item }, held) {
    const { names = [] } = held as Entries;
    const values = valuesOf(item, held as Entries);
    // fromEntries defines each name, `__proto__` too, and sets none.
    return Object.fromEntries(names.map((name, index) => [name, values[index]]));
  },
  isSame({ slot, item }, frame, other) {
    const [held, was] = [frame[slot], other[slot]];
    if (held === was) return held !== UNSOUND;
    if (!Array.isArray(held) || !Array.isArray(was) || held.length !== was.length) return false;
    const { names } = was as Entries;
    // What was kept has the names of what it was.
    if ((held as Entries).names === names) return held.every((entry: Frame, index) => isSameIn(item, entry, was[index] as Frame));
    const before = byName(was);
    return [...byName(held)].every(([name, entry]) => {
      const from = before.get(name);
      return from !== undefined && isSameIn(item, entry, from);
    });
  },
  inside: ({ item }) => [{ steps: [item], isEntry: true }],
  within: withinEntries,
};

function sentIn(run: Run, sent: unknown): (Sent & { readonly names: readonly string[] }) | undefined {
  try {
    const raw = run.settings.isForm ? namedByNumbers(sent) : sent;
    if (!isObject(raw)) return undefined;
    const names = Object.keys(raw);
    return { values: raw, names, length: names.length };
  } catch {
    return undefined;
  }
}

/** The names of a table that is read as JSON; `undefined` where it cannot be read. */
function namesOf(run: Run, step: ListStep, raw: unknown, indexes: readonly EntryKey[]): readonly string[] | undefined {
  const names = sentIn(run, raw)?.names;
  if (names?.every(isStorable)) return isWithin(run, step, names.length, indexes) ? names : undefined;
  noEntries(run, step, indexes);
  return undefined;
}
