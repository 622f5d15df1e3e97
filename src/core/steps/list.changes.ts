import { type Entries, type FieldStep, type Frame, type ListStep, UNSOUND } from '../plan/plan.ts';
import { newFrame } from '../run/frames.ts';
import { isSound, valueIn } from '../run/value.ts';
import { entriesIn, type StepChange, UNREAD } from './changing.ts';

export const listChange: StepChange<ListStep> = {
  refill({ size, item }, stored, _frame, _isComplete, inside) {
    if (!Array.isArray(stored)) return UNREAD;
    // A list with holes has nothing there.
    return Array.from(stored, (value: unknown): Frame => {
      const frame = newFrame(size);
      inside.one(item, value, frame);
      return frame;
    });
  },
  merge: (merging, step, raw, level) => merging.sent(step, raw, level),
  pair(amending, step, frame, before, inside) {
    const [entries, stored] = [entriesIn(frame, step), entriesIn(before, step)];
    if (!entries || !stored) return;
    for (const [index, from] of pairsOf(step.item, entries, stored)) {
      const [entry, was] = [entries[index] as Frame, stored[from] as Frame];
      amending.pair(entry, was);
      inside(amending, step.item, entry, was);
    }
  },
};

/**
 * Which entry of a list that is sent again was which before: one that is the same, wherever it stands now, else the one at
 * the same place, when nothing else comes from that. What comes from none is new.
 */
function pairsOf(item: FieldStep, entries: Entries, stored: Entries): ReadonlyMap<number, number> {
  const texts = entries.map((entry) => textOf(item, entry));
  const before = stored.map((entry) => textOf(item, entry));
  const pairs = new Map<number, number>();
  const taken = new Set<number>();
  const take = (index: number, from: number) => {
    pairs.set(index, from);
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
    const from = text === undefined || pairs.has(index) ? undefined : left.get(text)?.shift();
    if (from !== undefined) take(index, from);
  }
  for (const index of entries.keys()) if (!pairs.has(index) && !taken.has(index) && index < stored.length) pairs.set(index, index);
  return pairs;
}

/** The same text for equal entries; none for one that could not be read. */
function textOf(item: FieldStep, entry: Frame): string | undefined {
  return entry[item.slot] === UNSOUND || !isSound(item, entry) ? undefined : JSON.stringify(valueIn(item, entry));
}
