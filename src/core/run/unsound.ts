import type { Why } from '../basics/verdict.ts';
import { type KindSpec, UNREADABLE } from '../declared/kind.ts';
import type { EngineId } from '../messages/catalogue.ts';
import { type EntryKey, type FieldStep, type Frame, UNSOUND } from '../plan/plan.ts';
import { addEngineFinding, type EngineFinding, engineInfo } from './engine-finding.ts';
import type { Run } from './run.ts';

// What is said of a field that could not be read; no rule reads it then.

/** Adds a finding about a field that could not be read; no rule reads its value. */
export function unsound(
  run: Run,
  step: FieldStep,
  frame: Frame | undefined,
  indexes: readonly EntryKey[],
  id: EngineId,
  more: EngineFinding = {},
): typeof UNSOUND {
  addEngineFinding(run, id, [{ place: step.place, indexes }], more);
  // Nothing inside a group that failed is blamed again, and no rule reads it.
  if (frame) markUnsound([step], frame);
  return UNSOUND;
}

/** Adds a finding about a field, or (`open`) leaves it undecided. */
export function refuse(
  run: Run,
  step: FieldStep,
  indexes: readonly EntryKey[],
  id: 'readable' | 'too-many',
  open?: { readonly why: Why; readonly cause: unknown },
): typeof UNSOUND {
  if (!open) return unsound(run, step, undefined, indexes, id, id === 'readable' ? saidBy(step.kind) : { facts: { most: step.most } });
  run.leaveOpen(engineInfo(run, id, step.place.path), [{ place: step.place, indexes }], open.why, open.cause);
  return UNSOUND;
}

/** What a kind says of a value that it cannot read. */
export function saidBy({ says, facts, words, name }: KindSpec): EngineFinding {
  return { says, entry: `readable/${name}`, ...(facts && { facts }), ...(words && { words }) };
}

const LONG_NUMBER = /^-?[0-9]+(\.[0-9]+)?$/;

/** The same, where more can be said: the sender is near, or an application has sent a `Date`. */
export function saidOf(run: Run, kind: KindSpec, raw: unknown): EngineFinding {
  const { text, date, long } = kind.hints ?? {};
  const said = saidBy(kind);
  if (long && typeof raw === 'string' && LONG_NUMBER.test(raw.trim())) return { ...said, says: long, entry: `readable/${kind.name}/long` };
  if (run.settings.isForm) return said;
  if (text && typeof raw === 'string' && kind.form(raw) !== UNREADABLE) return { ...said, says: text, entry: `readable/${kind.name}/text` };
  return date && raw instanceof Date ? { ...said, says: date, entry: `readable/${kind.name}/date` } : said;
}

export function markUnsound(steps: readonly FieldStep[], frame: Frame): void {
  for (const step of steps) {
    frame[step.slot] = UNSOUND;
    for (const { steps: inner, isEntry } of step.inside) if (!isEntry) markUnsound(inner, frame);
  }
}
