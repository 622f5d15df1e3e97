import { namedByNumbers } from '../basics/form-numbers.ts';
import { isStorable } from '../basics/text.ts';
import { type Entries, type Frame, type ListStep, Unstored } from '../plan/plan.ts';
import { byName } from '../run/entries.ts';
import { newFrame } from '../run/frames.ts';
import { isObject, memberOf } from '../run/raw.ts';
import { refuse } from '../run/unsound.ts';
import { entriesIn, ownOf, type StepChange, UNREAD } from './changing.ts';

export const tableChange: StepChange<ListStep> = {
  refill({ size, item }, stored, _frame, _isComplete, inside) {
    if (!isObject(stored)) return UNREAD;
    const names = Object.keys(stored);
    const entries: Entries = names.map((name) => {
      const frame = newFrame(size);
      inside.one(item, stored[name], frame);
      return frame;
    });
    entries.names = names;
    return entries;
  },
  fromForm: namedByNumbers,
  merge(merging, step, raw, level) {
    const { frame, before, indexes } = level;
    const was = before[step.slot];
    if (was instanceof Unstored && !merging.isWhole) return merging.unknown(step, level, was);
    const earlier = byName(entriesIn(before, step) ?? []);
    const sent = Object.keys(raw);
    if (!sent.every(isStorable)) {
      frame[step.slot] = refuse(merging.run, step, indexes, 'readable');
      return;
    }
    const names = merging.isWhole ? sent : [...new Set([...earlier.keys(), ...sent])].filter((name) => memberOf(raw, name) !== null);
    if (names.length > step.most || !merging.run.spend(names.length)) {
      frame[step.slot] = refuse(merging.run, step, indexes, 'too-many');
      return;
    }
    const known = ownOf(level.stored, step.key);
    const entries: Entries = names.map((name) => {
      const entry = newFrame(step.size);
      const from = earlier.get(name);
      if (from) merging.amending.pair(entry, from);
      const own = ownOf(isObject(known) ? known : undefined, name);
      merging.field(step.item, {
        stored: { '*': own },
        change: { '*': memberOf(raw, name) },
        frame: entry,
        before: from ?? newFrame(step.size),
        isNew: !from,
        indexes: [...indexes, name],
      });
      return entry;
    });
    entries.names = names;
    frame[step.slot] = entries;
  },
  /** An entry of a table is the one of the same name. */
  pair(amending, step, frame, before, inside) {
    const earlier = byName(entriesIn(before, step) ?? []);
    for (const [name, entry] of byName(entriesIn(frame, step) ?? [])) {
      const from: Frame | undefined = earlier.get(name);
      if (!from) continue;
      amending.pair(entry, from);
      inside(amending, step.item, entry, from);
    }
  },
};
