import { type Entries, type FieldStep, type Frame, type ListStep, PRESENT, UNSOUND } from '../plan/plan.ts';
import type { Amending } from '../run/amending.ts';
import { beforeInside } from '../run/amending.ts';
import { isSound, shapeIn, valueIn } from '../run/value.ts';

// Which entry of a table that is sent again was which before: that of the same name. Of a list: one that is the same, wherever it stands
// now, else the one at the same place, when nothing else comes from that. What comes from none is new.

/** Pairs the entries of the lists in a field. */
export function pairEntries(amending: Amending, step: FieldStep, frame: Frame, before: Frame): void {
  const held = frame[step.slot];
  if (step.op === 'list') {
    const was = before[step.slot];
    if (Array.isArray(held) && Array.isArray(was)) (step.isNamed ? pairTables : pairLists)(amending, step, held, was);
  } else if (step.op !== 'scalar' && (held === PRESENT || typeof held === 'string') && beforeInside(step, frame, before)) {
    const fields = step.op === 'group' ? step.inner : shapeIn(step, held);
    for (const inner of fields.steps) pairEntries(amending, inner, frame, before);
  }
}

/** Entries with names are those of the same name. */
function pairTables(amending: Amending, { item }: ListStep, entries: Entries, stored: Entries): void {
  const before = new Map(stored.names?.map((name, index) => [name, stored[index] as Frame]));
  for (const [index, entry] of entries.entries()) {
    const from = before.get(entries.names?.[index] as string);
    if (!from) continue;
    amending.pair(entry, from);
    pairEntries(amending, item, entry, from);
  }
}

function pairLists(amending: Amending, step: ListStep, entries: Entries, stored: Entries): void {
  const { item } = step;
  const pair = (index: number, from: number) => {
    const [entry, before] = [entries[index] as Frame, stored[from] as Frame];
    amending.pair(entry, before);
    pairEntries(amending, item, entry, before);
  };
  const texts = entries.map((entry) => textOf(item, entry));
  const before = stored.map((entry) => textOf(item, entry));
  const paired = new Set<number>();
  const taken = new Set<number>();
  const take = (index: number, from: number) => {
    pair(index, from);
    paired.add(index);
    taken.add(from);
  };
  for (const [index, text] of texts.entries()) if (text !== undefined && text === before[index]) take(index, index);
  const left = new Map<string, number[]>();
  for (const [from, text] of before.entries()) {
    if (text === undefined || taken.has(from)) continue;
    const same = left.get(text);
    if (same) same.push(from);
    else left.set(text, [from]);
  }
  for (const [index, text] of texts.entries()) {
    const from = text === undefined || paired.has(index) ? undefined : left.get(text)?.shift();
    if (from !== undefined) take(index, from);
  }
  for (const index of entries.keys()) if (!paired.has(index) && !taken.has(index) && index < stored.length) pair(index, index);
}

/** The same text for equal entries; none for one that could not be read. */
function textOf(item: FieldStep, entry: Frame): string | undefined {
  return entry[item.slot] === UNSOUND || !isSound(item, entry) ? undefined : JSON.stringify(valueIn(item, entry));
}
