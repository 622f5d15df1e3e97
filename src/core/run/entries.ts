import { type Entries, type EntryKey, type Frame, type ListStep, UNSOUND, Unstored } from '../plan/plan.ts';

// The entries of lists inside lists, as one row.

/** The frames of all entries below these lists; what stands there instead when the outer list is not there. */
export function entriesBelow(lists: readonly ListStep[], from: Frame): readonly Frame[] | typeof UNSOUND | Unstored | undefined {
  let level: readonly Frame[] = [from];
  for (const [depth, list] of lists.entries()) {
    if (depth === 0) {
      const held = from[list.slot];
      if (!Array.isArray(held)) return held === UNSOUND || held instanceof Unstored ? held : undefined;
      level = held;
      continue;
    }
    const next: Frame[] = [];
    for (const frame of level) {
      const held = frame[list.slot];
      if (held === UNSOUND || held instanceof Unstored) return held;
      if (Array.isArray(held)) for (const entry of held) next.push(entry as Frame);
    }
    level = next;
  }
  return level;
}

/** The same with the keys that lead to each. */
export function placedBelow(lists: readonly ListStep[], from: Frame): { readonly frame: Frame; readonly keys: readonly EntryKey[] }[] {
  let level: { frame: Frame; keys: readonly EntryKey[] }[] = [{ frame: from, keys: [] }];
  for (const list of lists) {
    level = level.flatMap(({ frame, keys }) => {
      const held = frame[list.slot];
      return Array.isArray(held) ? held.map((entry: Frame, index) => ({ frame: entry, keys: [...keys, keyAt(held, index)] })) : [];
    });
  }
  return level;
}

/** The name or number of an entry; of a form's rows the number that they have there. */
export function keyAt(entries: Entries, index: number): EntryKey {
  return entries.names?.[index] ?? entries.numbers?.[index] ?? index;
}

/** The entries of a table by their names. */
export function byName(entries: Entries): ReadonlyMap<string, Frame> {
  return new Map(entries.names?.map((name, index) => [name, entries[index] as Frame]));
}
